import { act, fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { layOut, person, show } from "../testing";
import { type Chosen, Drawing, type DrawingProps } from "./Drawing";

const part = (kind: string, id: string) =>
	`<g role="button" tabindex="-1" data-${kind}="${id}" aria-label="${kind} ${id}"><circle r="5"/></g>`;
const svg = (body: string, data = "") => `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100" ${data}>${body}</svg>`;
const roof = svg(part("facet", "A1") + part("facet", "A2") + part("edge", "7"));
const button = (name: string) => screen.getByRole("button", { name });

/** A drawing whose choice is kept by its page. */
interface HeldProps extends Partial<Pick<DrawingProps, "onArrow">> {
	start?: Chosen | null;
	chosen?: Chosen[];
}
function Held({ start = null, chosen = [], ...rest }: HeldProps) {
	const [is, choose] = useState<Chosen | null>(start);
	const onChoose = (c: Chosen) => {
		chosen.push(c);
		choose(c);
	};
	return <Drawing svg={roof} chosen={is} onChoose={onChoose} {...rest} />;
}

it("one part is reached by Tab, the others by arrows around, and Enter or the space bar chooses", async () => {
	const user = person();
	const chosen: Chosen[] = [];
	show(<Held chosen={chosen} />);
	await user.tab();
	expect(document.activeElement).toBe(button("facet A1"));
	await user.keyboard("{ArrowRight}{ArrowDown}");
	expect(document.activeElement).toBe(button("edge 7"));
	await user.keyboard("{ArrowRight}");
	expect(document.activeElement).toBe(button("facet A1"));
	await user.keyboard("{ArrowLeft}{Enter}");
	await user.keyboard("{ArrowUp} ");
	expect(chosen).toEqual([
		{ kind: "edge", id: "7" },
		{ kind: "facet", id: "A2" },
	]);
	// The chosen one is the one that Tab reaches, and says that it is.
	const stands = ["facet A1", "facet A2", "edge 7"].map((n) => [
		button(n).getAttribute("tabindex"),
		button(n).getAttribute("aria-pressed"),
	]);
	expect(stands).toEqual([
		["-1", "false"],
		["0", "true"],
		["-1", "false"],
	]);
});

it("a part is chosen by a press on any of its marks, and a press beside the parts chooses nothing", async () => {
	const user = person();
	const chosen: Chosen[] = [];
	show(<Held chosen={chosen} />);
	await user.click(button("facet A2").querySelector("circle") as Element);
	await user.click(button("facet A2").closest("svg") as Element);
	expect(chosen).toEqual([{ kind: "facet", id: "A2" }]);
});

it("a drawing that only shows has nothing to reach", () => {
	show(<Drawing svg={roof} />);
	for (const name of ["facet A1", "facet A2", "edge 7"]) expect(button(name).getAttribute("tabindex")).toBe("-1");
});

it("further things at the place that is set are marked, whatever is drawn anew", () => {
	const { rerender } = show(<Drawing svg={roof} here={["A2", "7"]} />);
	const here = () => ["facet A1", "facet A2", "edge 7"].map((n) => button(n).getAttribute("data-here"));
	// An edge has no ground to mark.
	expect(here()).toEqual(["false", "true", "false"]);
	rerender(<Drawing svg={roof.replace("100 100", "200 200")} here={["A1"]} chosen={{ kind: "edge", id: "7" }} />);
	expect(here()).toEqual(["true", "false", "false"]);
	expect(button("edge 7").getAttribute("aria-pressed")).toBe("true");
});

it("arrows do what the page says where parts are not one after the other", () => {
	const arrows: string[] = [];
	show(<Held onArrow={(key: string) => arrows.push(key)} start={{ kind: "facet", id: "A1" }} />);
	act(() => button("facet A1").focus());
	fireEvent.keyDown(button("facet A1"), { key: "ArrowDown" });
	expect(arrows).toEqual(["ArrowDown"]);
	expect(document.activeElement).toBe(button("facet A1"));
});

it("a press says where it was in the plan's own metres", () => {
	const points: number[][] = [];
	const plan = svg("", 'data-k="50" data-west="-2" data-north="4" data-margin="34"');
	show(<Drawing svg={plan} onPoint={(x, y) => points.push([x, y])} />);
	const sheet = document.querySelector("svg") as SVGSVGElement;
	layOut(2, [10, 20]);
	fireEvent.click(sheet, { clientX: 10 + 2 * (34 + 150), clientY: 20 + 2 * (34 + 100) });
	expect(points).toEqual([[1, 2]]);
});

it("a pond is shown as far as the water has risen, brim-full while nothing is said, and empty at its bottom", () => {
	const band = (from: string) => `<path data-from="${from}" d="M0 0"/>`;
	const pond = svg(`<g role="img" data-pond="P1">${band("-0.2000")}${band("-0.1000")}${band("0.0000")}</g>`);
	const { rerender } = show(<Drawing svg={pond} />);
	const shown = () => [...document.querySelectorAll("[data-from]")].map((b) => b.getAttribute("visibility") === "visible");
	expect(shown()).toEqual([true, true, true]);
	for (const [level, want] of [
		[-0.2, [false, false, false]],
		[-0.15, [true, false, false]],
		[-0.1, [true, false, false]],
		[0.05, [true, true, true]],
	] as const) {
		rerender(<Drawing svg={pond} levels={{ P1: level }} />);
		expect(shown(), String(level)).toEqual(want);
	}
	// Another pond's level is not this one's.
	rerender(<Drawing svg={pond} levels={{ P2: -0.2 }} />);
	expect(shown()).toEqual([true, true, true]);
});

it("a drawing is parsed, never written into the page as text", () => {
	show(<Drawing svg={svg('<text id="t">&lt;img src=x onerror=alert(1)&gt;</text>')} />);
	expect(document.querySelector("#t")?.textContent).toBe("<img src=x onerror=alert(1)>");
	expect(document.querySelector("img")).toBeNull();
});
