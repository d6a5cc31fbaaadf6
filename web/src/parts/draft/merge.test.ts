import { describe, expect, it } from "vitest";
import { merge, put, same } from "./merge";

/** A few hundred random objects, the same at every run. */
function generated(seed: number) {
	let s = seed;
	const next = (n: number) => {
		s = (s * 1103515245 + 12345) % 2147483648;
		return s % n;
	};
	const value = (): unknown => [1, 2, "a", "b", null, true][next(6)];
	const thing = () => ({
		name: value(),
		brief: { worries: value(), papers: value(), year: value() },
		rows: ["r1", "r2", "r3"].filter(() => next(3) > 0).map((id) => ({ id, text: value() })),
	});
	return { base: thing(), mine: thing(), theirs: thing() };
}

describe("bringing two changes together", () => {
	it("takes each field from the side that changed it", () => {
		const base = { name: "Heron", brief: { worries: "", papers: "" } };
		const mine = { name: "Heron", brief: { worries: "a stain", papers: "" } };
		const theirs = { name: "Heron Boathouse", brief: { worries: "", papers: "a permit" } };
		expect(merge(base, mine, theirs)).toEqual({
			merged: { name: "Heron Boathouse", brief: { worries: "a stain", papers: "a permit" } },
			clashes: [],
		});
	});

	it("names a field that both changed, and keeps mine until somebody chooses", () => {
		const { merged, clashes } = merge({ brief: { weather: "" } }, { brief: { weather: "dry" } }, { brief: { weather: "rain" } });
		expect(merged.brief.weather).toBe("dry");
		expect(clashes).toEqual([{ path: ["brief", "weather"], mine: "dry", theirs: "rain" }]);
		expect(put(merged, ["brief", "weather"], "rain")).toEqual({ brief: { weather: "rain" } });
	});

	it("compares rows with names row by row", () => {
		const gutter = (id: string, width: string) => ({ id, width });
		const base = { gutters: [gutter("G1", "125 mm"), gutter("G2", "100 mm")] };
		const mine = { gutters: [gutter("G1", "150 mm"), gutter("G2", "100 mm")] };
		const theirs = { gutters: [gutter("G1", "125 mm"), gutter("G3", "75 mm")] };
		const { merged, clashes } = merge(base, mine, theirs);
		expect(clashes).toEqual([]);
		expect(merged.gutters).toEqual([gutter("G1", "150 mm"), gutter("G3", "75 mm")]);
	});

	it("holds for generated changes: who changed nothing gets the other's, and no clash is lost or made up", () => {
		for (let seed = 1; seed < 400; seed += 1) {
			const { base, mine, theirs } = generated(seed);
			expect(same(merge(base, base, theirs).merged, theirs)).toBe(true);
			expect(same(merge(base, mine, base).merged, mine)).toBe(true);
			expect(merge(base, mine, mine).clashes).toEqual([]);
			const one = merge(base, mine, theirs);
			const other = merge(base, theirs, mine);
			expect(one.clashes.map((c) => c.path.join(".")).sort()).toEqual(other.clashes.map((c) => c.path.join(".")).sort());
			// When every clash is given to the other side, both ways round come to the same.
			const settled = one.clashes.reduce((v, c) => put(v, c.path, c.theirs), one.merged);
			expect(same(sorted(settled), sorted(other.merged))).toBe(true);
		}
	});
});

const sorted = <T extends { rows: { id: string }[] }>(t: T): T => ({
	...t,
	rows: [...t.rows].sort((a, b) => (a.id < b.id ? -1 : 1)),
});
