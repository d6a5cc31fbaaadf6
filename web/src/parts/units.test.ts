// The page and the core show a figure alike: both are held to one table.
import { describe, expect, it } from "vitest";
import table from "../../../crates/envelope/src/measure/shown.json";
import { inItsUnit, type Shown, shownIn, typedIn, type UnitsKey } from "./units";

type Row = { of: keyof Shown; value: number; digits?: number; metric: string; us: string };
const show = (u: Shown, r: Row) => (u[r.of] as (v: number, digits?: number) => string)(r.value, r.digits);

describe("a figure in the reader's units", () => {
	it.each(table as Row[])("$of of $value", (r) => {
		expect(show(shownIn("metric"), r)).toBe(r.metric);
		expect(show(shownIn("us"), r)).toBe(r.us);
		expect(show(shownIn("metric-us"), r)).toBe(`${r.metric} (${r.us})`);
		expect(show(shownIn("us-metric"), r)).toBe(`${r.us} (${r.metric})`);
	});
	it("a compared figure is shown by the unit it names", () => {
		const us = shownIn("us");
		expect(inItsUnit(us, 25.4, "mm")).toBe("1 in");
		expect(inItsUnit(us, 38, "L/min")).toBe("10 gpm");
		expect(inItsUnit(us, 3, "places")).toBe("3.0 places");
	});
});

it("a new row begins in the system the reader names first", () => {
	const begins = (units: UnitsKey) => shownIn(units).start("1 m", "3 ft");
	expect((["metric", "metric-us", "us", "us-metric"] as const).map(begins)).toEqual(["1 m", "1 m", "3 ft", "3 ft"]);
});

it("how far along a wall is typed in metres or feet, and kept in metres", () => {
	for (const [units, name, typed, kept] of [
		["metric", "metres", 3.2, 3.2],
		["us-metric", "feet", 10.5, 3.2004],
	] as const) {
		const box = typedIn(units, "along");
		expect(box.name).toBe(name);
		expect(box.keep(typed)).toBeCloseTo(kept, 9);
		expect(box.show(box.keep(typed))).toBe(typed);
	}
});
