import { useRef } from "react";
import styled from "styled-components";
import type { JobView } from "../../api/queries";
import { useWhere } from "../../app/where";
import { tone } from "../../design/tokens";
import { byCell, standing } from "./cells";

const Drawing = styled.svg`
	width: 100%;
	max-width: 360px;
	display: block;
	margin: 0 auto;
	g[role="button"] { cursor: pointer; outline: none; }
	g[role="button"]:focus-visible > path:first-child { stroke: ${tone.copper}; stroke-width: 3.5; stroke-dasharray: none; }
	text { font-size: 13px; fill: ${tone.ink}; pointer-events: none; }
`;

const fills: Record<string, string> = {
	untouched: tone.plaster,
	seen: tone.seen,
	noted: tone.noted,
	limited: "url(#could-not-be-seen)",
};

/** The building from above: faces as sectors in true direction, zones as rings from the roof to the ground. */
export function Wheel({ view }: { view: JobView }) {
	const where = useWhere();
	const drawing = useRef<SVGSVGElement>(null);
	const { wheel } = view;
	const cells = byCell(view);
	const half = wheel.side / 2;
	const report = new Map(view.coverage.cells.map((c) => [c.cell, c]));

	const focusSelected = () =>
		requestAnimationFrame(() => drawing.current?.querySelector<SVGGElement>('[aria-pressed="true"]')?.focus());
	const onKeyDown = (e: React.KeyboardEvent, cell: string) => {
		const choose = () => where.setCell(cell);
		const moves = new Map([
			["ArrowRight", () => where.walk(1)],
			["ArrowLeft", () => where.walk(-1)],
			["ArrowDown", () => where.climb(-1)],
			["ArrowUp", () => where.climb(1)],
			["Enter", choose],
			[" ", choose],
		]);
		const move = moves.get(e.key);
		if (!move) return;
		e.preventDefault();
		move();
		focusSelected();
	};

	// The chosen cell is drawn last, so that its rim lies above its neighbours.
	const ordered = [...wheel.cells].sort((a, b) => Number(a.cell === where.cell) - Number(b.cell === where.cell));
	return (
		<Drawing
			ref={drawing}
			viewBox={`${-half} ${-half} ${wheel.side} ${wheel.side}`}
			role="group"
			aria-label={`The round: ${view.coverage.sentence}`}
		>
			<defs>
				<pattern id="could-not-be-seen" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
					<rect width="6" height="6" fill={tone.plaster} />
					<line x1="0" y1="0" x2="0" y2="6" stroke={tone.inkSoft} strokeWidth="1.6" />
				</pattern>
			</defs>
			{ordered.map((shape) => {
				const cell = report.get(shape.cell);
				const noted = cells.get(shape.cell) ?? [];
				const chosen = shape.cell === where.cell;
				const state = cell?.state ?? "untouched";
				const open = state === "untouched" && cell?.expected;
				const count = noted.length > 0 ? String(noted.length) : "";
				return (
					// biome-ignore lint/a11y/useSemanticElements: a button element cannot be a sector of a drawing
					<g
						key={shape.cell}
						role="button"
						tabIndex={chosen ? 0 : -1}
						aria-pressed={chosen}
						aria-label={`${cell?.name}: ${standing(view, shape.cell, noted)}`}
						data-cell={shape.cell}
						onClick={() => where.setCell(shape.cell)}
						onKeyDown={(e) => onKeyDown(e, shape.cell)}
					>
						<path
							d={shape.path}
							fill={fills[state] ?? tone.plaster}
							stroke={chosen ? tone.copper : open ? tone.inkSoft : "none"}
							strokeWidth={chosen ? 3.5 : 1}
							strokeDasharray={!chosen && open ? "3 3" : undefined}
						/>
						{shape.cell === "inside" && (
							<g transform={`rotate(${wheel.turn})`} fill="none" stroke={tone.ink} strokeWidth="1.5">
								<path d="M-22 14V-14H22V14" fill={tone.plaster} />
								<path d="M-22 14H-6M6 14H22" strokeWidth="3" />
							</g>
						)}
						{state === "limited" && count && <circle cx={shape.x} cy={shape.y} r="8" fill={tone.plaster} />}
						{count ? (
							<text x={shape.x} y={shape.y + 4.5} textAnchor="middle" fontWeight="600">
								{count}
							</text>
						) : (
							state === "seen" && (
								<path d={`M${shape.x - 4} ${shape.y}l3 3l5 -6`} fill="none" stroke={tone.verdigris} strokeWidth="1.8" />
							)
						)}
						{noted.some((n) => n.finding.hazard) && (
							<path
								d={`M${shape.x + 9} ${shape.y + 4}l4.5 -8l4.5 8z`}
								fill={tone.plaster}
								stroke={tone.brick}
								strokeWidth="1.6"
							/>
						)}
					</g>
				);
			})}
			{/* biome-ignore lint/a11y/noAriaHiddenOnFocusable: names and arrow are drawing; nothing in here takes focus */}
			<g aria-hidden="true">
				{wheel.labels.map((l) => {
					// Names at the sides run along the rim, so that they keep clear of it.
					const turn = Math.abs(l.x) > Math.abs(l.y) ? (l.x > 0 ? 90 : -90) : 0;
					const chosen = where.cell.startsWith(`${l.face}.`);
					return (
						<text
							key={l.face}
							x={l.x}
							y={l.y}
							transform={`rotate(${turn} ${l.x} ${l.y})`}
							textAnchor="middle"
							dominantBaseline="middle"
							fontWeight={chosen ? 600 : 400}
						>
							{l.text}
						</text>
					);
				})}
				{wheel.oriented && (
					<>
						<path d={`M${-half + 16} ${-half + 36}v-22l-4 7m4 -7l4 7`} fill="none" stroke={tone.ink} strokeWidth="1.5" />
						<text x={-half + 16} y={-half + 51} textAnchor="middle">
							N
						</text>
					</>
				)}
			</g>
		</Drawing>
	);
}
