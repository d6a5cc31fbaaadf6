import { type KeyboardEvent, useEffect, useRef } from "react";
import styled from "styled-components";
import { tone } from "./tokens";

const Sheet = styled.div`
	svg { display: block; width: 100%; height: auto; max-height: var(--most, none); }
	[role="button"] { cursor: pointer; outline: none; }
	[data-facet][aria-pressed="true"] path { stroke: ${tone.copper}; stroke-width: 4; }
	[data-facet][data-here="true"] path { stroke: ${tone.copper}; stroke-width: 1.5; stroke-dasharray: 5 4; }
	[data-facet]:focus-visible path { stroke: ${tone.copper}; stroke-width: 3; }
	[data-edge][aria-pressed="true"] line:last-child, [data-edge]:focus-visible line:last-child { stroke: ${tone.copper}; stroke-width: 5; }
	[data-detail][aria-pressed="true"] circle:nth-child(2), [data-detail]:focus-visible circle:nth-child(2) { stroke: ${tone.copper}; stroke-width: 4; }
	[data-cell][aria-pressed="true"] > path:first-child { stroke: ${tone.copper}; stroke-width: 4; stroke-dasharray: none; }
	[data-cell]:focus-visible > path:first-child { stroke: ${tone.copper}; stroke-width: 4; stroke-dasharray: 7 3; }
	[data-square][aria-pressed="true"] path, [data-square]:focus-visible path { stroke-width: 4.5; }
	[data-height][aria-pressed="true"] circle:last-child, [data-height]:focus-visible circle:last-child { stroke: ${tone.copper}; stroke-width: 4; }
	[data-piece][aria-pressed="true"] path, [data-piece]:focus-visible path { stroke: ${tone.copper}; stroke-width: 3; }
`;

/** Something in a drawing: what kind it is, and which. */
export interface Chosen {
	kind: "facet" | "edge" | "detail" | "piece" | "cell" | "square" | "height";
	id: string;
}

const KINDS = ["facet", "edge", "detail", "piece", "cell", "square", "height"] as const;

function what(node: Element): Chosen | null {
	for (const kind of KINDS) {
		const id = node.getAttribute(`data-${kind}`);
		if (id !== null) return { kind, id };
	}
	return null;
}

const sameAs = (a: Chosen | null, b: Chosen | null) => a !== null && b !== null && a.kind === b.kind && a.id === b.id;

export interface DrawingProps {
	/** SVG as the server drew it; its text is escaped there, and it is parsed, never written into the page as text. */
	svg: string;
	chosen?: Chosen | null;
	/** Further things that belong to the place that is set. */
	here?: string[];
	onChoose?: (chosen: Chosen) => void;
	/** A point of the drawing, in the units of its plan. */
	onPoint?: (x: number, y: number) => void;
	/** How high water stands in each pond of the drawing; brim-full while nothing is said. */
	levels?: { [pond: string]: number };
	/** Greatest height. */
	most?: string;
	/** What the arrow keys do, where the parts are not simply one after the other. */
	onArrow?: (key: string) => void;
}

/** A drawing made by the server, with its parts to choose: by pointer, or by arrow keys and Enter. */
export function Drawing({ svg, chosen = null, here = [], onChoose, onPoint, levels, most, onArrow }: DrawingProps) {
	const sheet = useRef<HTMLDivElement>(null);
	const marked = here.join(" ");
	useEffect(() => {
		const parsed = new DOMParser().parseFromString(svg, "image/svg+xml").documentElement;
		sheet.current?.replaceChildren(document.importNode(parsed, true));
	}, [svg]);
	// biome-ignore lint/correctness/useExhaustiveDependencies: a new drawing has to be marked again
	useEffect(() => {
		const parts = [...(sheet.current?.querySelectorAll('[role="button"]') ?? [])];
		parts.forEach((part, i) => {
			const it = what(part);
			const on = sameAs(it, chosen);
			part.setAttribute("aria-pressed", String(on));
			part.setAttribute("data-here", String(it?.kind === "facet" && marked.split(" ").includes(it.id)));
			// One part is reached by Tab: the chosen one, or the first.
			const first = parts.some((p) => sameAs(what(p), chosen)) ? on : i === 0;
			part.setAttribute("tabindex", onChoose && first ? "0" : "-1");
		});
	}, [svg, chosen?.kind, chosen?.id, marked, onChoose]);

	// Bands of a pond show as far as the water has risen.
	// biome-ignore lint/correctness/useExhaustiveDependencies: a new drawing has to be filled again
	useEffect(() => {
		for (const pond of sheet.current?.querySelectorAll<SVGElement>("[data-pond]") ?? []) {
			const level = levels?.[pond.dataset.pond ?? ""];
			for (const band of pond.querySelectorAll<SVGElement>("[data-from]")) {
				const shown = level === undefined || Number(band.dataset.from) < level;
				band.setAttribute("visibility", shown ? "visible" : "hidden");
			}
		}
	}, [svg, levels]);

	// The drawing says how its own units became places: see the frame it carries.
	const point = (e: React.MouseEvent) => {
		if (!onPoint) return;
		const drawn = sheet.current?.querySelector("svg");
		const turned = drawn?.getScreenCTM()?.inverse();
		if (!drawn || !turned) return;
		const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(turned);
		const { k, west, north, margin } = drawn.dataset;
		onPoint(Number(west) + (at.x - Number(margin)) / Number(k), Number(north) - (at.y - Number(margin)) / Number(k));
	};
	const choose = (target: EventTarget) => {
		const part = (target as Element).closest('[role="button"]');
		const it = part && what(part);
		if (it) onChoose?.(it);
	};
	const keys = (e: KeyboardEvent) => {
		const parts = [...(sheet.current?.querySelectorAll<SVGElement>('[role="button"]') ?? [])];
		const at = parts.indexOf(e.target as SVGElement);
		if (at < 0) return;
		if (onArrow && e.key.startsWith("Arrow")) {
			e.preventDefault();
			onArrow(e.key);
			requestAnimationFrame(() => sheet.current?.querySelector<SVGElement>('[aria-pressed="true"]')?.focus());
			return;
		}
		const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key];
		if (step) parts[(at + step + parts.length) % parts.length]?.focus();
		else if (e.key === "Enter" || e.key === " ") choose(e.target);
		else return;
		e.preventDefault();
	};
	return (
		<Sheet
			ref={sheet}
			onClick={(e) => {
				choose(e.target);
				point(e);
			}}
			onKeyDown={keys}
			style={most ? ({ "--most": most } as React.CSSProperties) : undefined}
		/>
	);
}
