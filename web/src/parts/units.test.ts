// The page and the core show a figure alike: both are held to one table.
import { describe, expect, it } from "vitest";
import table from "../../../crates/envelope/src/measure/shown.json";
import { inItsUnit, type Shown, shownIn } from "./units";

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
