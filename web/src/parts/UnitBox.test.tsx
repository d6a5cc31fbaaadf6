import { screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { person, serve, show } from "../testing";
import { UnitBox } from "./UnitBox";
import { type TypedKind, typedIn, type UnitsKey } from "./units";

const KINDS: TypedKind[] = ["temperature", "millimetres", "metres", "gust", "far"];

it("what a person types is what stands in the field when it comes back, in either system", () => {
	for (const units of ["metric", "us", "us-metric", "metric-us"] as UnitsKey[])
		for (const kind of KINDS) {
			const { show, keep } = typedIn(units, kind);
			for (let k = -400; k <= 1400; k++) {
				const typed = k / 8;
				expect(show(keep(typed)), `${units} ${kind} ${typed}`).toBe(typed);
			}
		}
});

it("known figures: freezing and boiling, an inch of hail, a gale, a mile, a foot", () => {
	const us = (kind: TypedKind) => typedIn("us", kind);
	expect([us("temperature").keep(32), us("temperature").keep(212), us("temperature").show(-40)]).toEqual([0, 100, -40]);
	expect(us("millimetres").keep(1)).toBeCloseTo(25.4, 6);
	expect(us("gust").keep(60)).toBeCloseTo(26.8224, 6);
	expect(us("far").keep(1)).toBeCloseTo(1.609344, 6);
	expect(us("metres").keep(12)).toBeCloseTo(0.3048, 6);
	expect(typedIn("metric", "gust").keep(26.5)).toBe(26.5);
	expect(typedIn("metric-us", "temperature").name).toBe("°C");
	expect(typedIn("us-metric", "temperature").name).toBe("°F");
});

function box(units: UnitsKey, value: number | null) {
	serve({});
	const kept: (number | null)[] = [];
	show(<UnitBox of="temperature" label="Inside" value={value} least={-50} most={60} onChange={(v) => kept.push(v)} />, {
		outlet: { units },
	});
	return kept;
}

it("a temperature is asked for in the reader's degrees and kept in Celsius", async () => {
	const user = person();
	const kept = box("us", 20);
	const field = screen.getByRole<HTMLInputElement>("textbox", { name: "Inside, °F" });
	expect(field.value).toBe("68");
	await user.clear(field);
	await user.type(field, "70.5{Tab}");
	expect(kept.at(-1)).toBeCloseTo(21.388889, 6);
});

it("limits are those of what is kept, and an emptied field is nothing", async () => {
	const user = person();
	const kept = box("us", 20);
	const field = screen.getByRole<HTMLInputElement>("textbox", { name: "Inside, °F" });
	await user.clear(field);
	await user.type(field, "400{Tab}");
	expect(kept.at(-1)).toBeCloseTo(60, 6);
	await user.clear(field);
	await user.tab();
	expect(kept.at(-1)).toBeNull();
});

it("in a metric job nothing is turned into anything", () => {
	box("metric-us", 20.25);
	expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Inside, °C" }).value).toBe("20.25");
});
