import { describe, expect, it } from "vitest";
import { frameOf, within } from "./frame";

const svg = `<svg viewBox="0 0 344 194" data-left="22" data-top="22" data-wide="300.00" data-high="150.00"></svg>`;

describe("a tap on a square", () => {
	const f = frameOf(svg);
	it("is read in the square's own parts, up from its lower left corner", () => {
		expect(within(f, 22 / 344, 172 / 194)).toEqual([0, 0]);
		expect(within(f, 322 / 344, 22 / 194)).toEqual([1, 1]);
		expect(within(f, 172 / 344, 97 / 194)).toEqual([0.5, 0.5]);
	});
	it("outside the square is no hit", () => {
		expect(within(f, 10 / 344, 97 / 194)).toBeNull();
		expect(within(f, 172 / 344, 180 / 194)).toBeNull();
	});
	it("on a drawing without a frame is no hit", () => {
		expect(within(frameOf("<svg/>"), 0.5, 0.5)).toBeNull();
	});
});
