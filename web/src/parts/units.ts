// How a figure is shown on the page: the same rules as `envelope::measure::Units`, held to them by one table of cases
// (`crates/envelope/src/measure/shown.json`). The page shows figures; it works none out.
import { useOutletContext } from "react-router";
import type { Schemas } from "../api/client";
import type { JobView } from "../api/queries";

export type UnitsKey = Schemas["Units"];

const FOOT = 0.3048;
const INCH = 0.0254;
const GALLON = 3.785411784;
const MILE = 1609.344;

const fixed = (value: number, digits: number) => {
	const text = value.toFixed(digits);
	return /^-[0.]+$/.test(text) ? text.slice(1) : text;
};

/** Inches to the nearest 1/per, as a tape reads. */
function inches(count: number, per: number): string {
	const whole = Math.floor(count / per);
	let part = count % per;
	let of = per;
	while (part !== 0 && part % 2 === 0) {
		part /= 2;
		of /= 2;
	}
	if (part === 0) return `${whole}`;
	return whole === 0 ? `${part}/${of}` : `${whole} ${part}/${of}`;
}

function tape(m: number, per: number, feet: boolean): string {
	const all = Math.round((Math.abs(m) / INCH) * per);
	const minus = m < 0 && all > 0 ? "-" : "";
	const ft = feet ? Math.floor(all / (12 * per)) : 0;
	const rest = all - ft * 12 * per;
	if (ft === 0) return `${minus}${inches(rest, per)} in`;
	return rest === 0 ? `${minus}${ft} ft` : `${minus}${ft} ft ${inches(rest, per)} in`;
}

const TAPE = [1, 1, 2, 16];

/** The figures of a job in its reader's units. */
export function shownIn(units: UnitsKey) {
	const show = (metric: string, us: string) =>
		units === "metric" ? metric : units === "us" ? us : units === "metric-us" ? `${metric} (${us})` : `${us} (${metric})`;
	return {
		units,
		/** A length along a building, metres; `digits` is how fine it is known. */
		length: (m: number, digits: number) =>
			show(`${fixed(m, digits)} m`, digits === 0 ? `${fixed(m / FOOT, 0)} ft` : tape(m, TAPE[digits] ?? 16, true)),
		/** A length as it would be typed, in the reader's first unit. */
		typed: (m: number, digits: number) => (units.startsWith("us") ? tape(m, TAPE[digits] ?? 16, true) : `${fixed(m, digits)} m`),
		/** A height an instrument gives, as it would be typed: finer than a tape, in the reader's first unit. */
		read: (m: number) => (units.startsWith("us") ? `${fixed(m / INCH, 2)} in` : `${fixed(m * 1000, 1)} mm`),
		/** What a new row begins with: round in the reader's first unit. */
		start: (metric: string, us: string) => (units.startsWith("us") ? us : metric),
		/** A depth or a gap, metres. */
		depth: (m: number) => show(`${fixed(m * 1000, 0)} mm`, tape(m, 16, Math.abs(m) >= 3 * FOOT)),
		/** A depth read finer than a tape, metres. */
		fine: (m: number) => show(`${fixed(m * 1000, 1)} mm`, `${fixed(m / INCH, 2)} in`),
		/** Square metres. */
		area: (m2: number) => show(`${fixed(m2, 1)} m²`, `${fixed(m2 / (FOOT * FOOT), 0)} sq ft`),
		/** Soil, cubic metres. */
		soil: (m3: number) => show(`${fixed(m3, 2)} m³`, `${fixed(m3 / FOOT ** 3, 1)} cu ft`),
		/** A lot of water, cubic metres. */
		water: (m3: number) => show(`${fixed(m3, 2)} m³`, `${fixed((m3 * 1000) / GALLON, 0)} gal`),
		/** Some water, litres. */
		litres: (l: number) => show(`${fixed(l, 0)} L`, `${fixed(l / GALLON, l < 10 * GALLON ? 1 : 0)} gal`),
		/** Litres a minute. */
		flow: (lMin: number) => show(`${fixed(lMin, 0)} L/min`, `${fixed(lMin / GALLON, lMin < 10 * GALLON ? 1 : 0)} gpm`),
		/** Litres a second. */
		flowS: (lS: number) => show(`${fixed(lS, 2)} L/s`, `${fixed((lS * 60) / GALLON, 1)} gpm`),
		/** Rain, millimetres an hour. */
		rain: (mmH: number) => show(`${fixed(mmH, 0)} mm/h`, `${fixed(mmH / 25.4, 2)} in/h`),
		/** Rain that fell, millimetres. */
		rainDepth: (mm: number) => show(`${fixed(mm, 0)} mm`, `${fixed(mm / 25.4, 2)} in`),
		/** Metres a second. */
		speed: (mS: number) => show(`${fixed(mS, 1)} m/s`, `${fixed(mS / FOOT, 1)} ft/s`),
		/** A gust, metres a second. */
		gust: (mS: number) => show(`${fixed(mS, 0)} m/s`, `${fixed((mS * 3600) / MILE, 0)} mph`),
		/** How far off, kilometres. */
		far: (km: number) => show(`${fixed(km, 0)} km`, `${fixed((km * 1000) / MILE, 0)} mi`),
		/** Degrees Celsius. */
		temperature: (c: number, digits: number) => show(`${fixed(c, digits)} °C`, `${fixed(c * 1.8 + 32, digits)} °F`),
	};
}

/** How a number is typed in each system: kept = (typed - zero) / per. */
const TYPED = {
	temperature: { metric: { name: "°C", per: 1, zero: 0 }, us: { name: "°F", per: 1.8, zero: 32 } },
	millimetres: { metric: { name: "mm", per: 1, zero: 0 }, us: { name: "inches", per: 1 / 25.4, zero: 0 } },
	metres: { metric: { name: "metres", per: 1, zero: 0 }, us: { name: "inches", per: 1 / INCH, zero: 0 } },
	along: { metric: { name: "metres", per: 1, zero: 0 }, us: { name: "feet", per: 1 / FOOT, zero: 0 } },
	gust: { metric: { name: "m/s", per: 1, zero: 0 }, us: { name: "mph", per: 3600 / MILE, zero: 0 } },
	far: { metric: { name: "km", per: 1, zero: 0 }, us: { name: "miles", per: 1000 / MILE, zero: 0 } },
} as const;

export type TypedKind = keyof typeof TYPED;

/** A number in the reader's first unit: what stands in its field, and what is kept of what is typed there. */
export function typedIn(units: UnitsKey, kind: TypedKind) {
	const { name, per, zero } = TYPED[kind][units.startsWith("us") ? "us" : "metric"];
	// What is kept has the digits of the sum; what is shown, those of a person.
	// Nought has no sign.
	const tidy = (v: number, by: number) => Math.round(v * by) / by + 0;
	return {
		name,
		show: (kept: number) => tidy(kept * per + zero, 1e4),
		keep: (typed: number) => (per === 1 && zero === 0 ? typed : tidy((typed - zero) / per, 1e8)),
	};
}

export type Shown = ReturnType<typeof shownIn>;

/** The figures of the open job. */
export const useShown = (): Shown => shownIn(useOutletContext<JobView>().units);

/** A figure of a comparison, which names its unit. */
export function inItsUnit(u: Shown, value: number, unit: string): string {
	switch (unit) {
		case "mm":
			return u.depth(value / 1000);
		case "m":
			return u.length(value, 1);
		case "m·h":
			return u.units.startsWith("us") ? `${(value / FOOT).toFixed(1)} ft·h` : `${value.toFixed(1)} m·h`;
		case "L":
			return u.litres(value);
		case "L/min":
			return u.flow(value);
		case "mm/h":
			return u.rain(value);
		default:
			return `${Math.abs(value) < 10 ? value.toFixed(1) : value.toFixed(0)} ${unit}`.trim();
	}
}
