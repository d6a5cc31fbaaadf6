import { expect, it } from "vitest";
import { direction, POINTS, whole } from "./read";

it.each([
	["", null],
	["  ", null],
	["ssw", 202.5],
	[" N ", 0],
	["200", 200],
	["22.5", 22.5],
	["200° SSW", 200],
	["200 degrees ssw", 200],
	["0 deg", 0],
	["360", 360],
	["359 N", 359],
])("%j is %j", (text, value) => expect(direction(text)).toBe(value));

// A figure that only begins like one would turn the house.
it.each(["20 E of S", "200 N", "361", "12:30", "southish", "-5", "1e2", "200 SSWW", "°", "1,5", "NaN", "٣"])(
	"%j is not guessed at",
	(text) => expect(direction(text)).toBeUndefined(),
);

it("of the sixteen points a degree agrees with the nearest and with no other", () => {
	for (let degree = 0; degree <= 360; degree += 0.5) {
		const away = (k: number) => Math.abs(((degree - k * 22.5 + 540) % 360) - 180);
		const agree = POINTS.filter((point) => direction(`${degree}° ${point}`) === degree);
		const nearest = Math.min(...POINTS.map((_, k) => away(k)));
		expect(agree.length, String(degree)).toBe(1);
		expect(away(POINTS.indexOf(agree[0] as string)), String(degree)).toBe(nearest);
	}
});

it.each([
	["1967", 1967],
	[" 1967 ", 1967],
	["", null],
	["19 67", undefined],
	["1967.5", undefined],
	["about 1967", undefined],
	["-3", undefined],
	["1e3", undefined],
])("a year: %j is %j", (text, value) => expect(whole(text)).toBe(value));
