import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, json, person, show } from "../../testing";
import { Storm, type Visit } from "./Storm";
import { server, slope, view } from "./testing";

async function opened(part: string, start: object, account: (s: Visit) => object = () => ({}), more = {}) {
	const user = person();
	const kept = server(start, { account, more });
	show(<Storm />, { outlet: view });
	await user.click(await screen.findByRole("tab", { name: part }));
	return { user, kept };
}
const group = async (name: string) => within(await screen.findByRole("group", { name }));

it("nothing found on soft metal is a finding: it is kept with nought, at the face of the last one", async () => {
	const gutter = { id: "M1", face: "rear", what: "gutter", count: 4, largest: "9 mm", fresh: "fresh", spatter_from_deg: 220 };
	const { user, kept } = await opened("Soft metal", { soft: [gutter] });
	await user.click(await screen.findByRole("button", { name: "Add what was looked at" }));
	await waitFor(() => expect(kept().soft).toHaveLength(2));
	expect(kept().soft?.[1]).toEqual({
		id: "M2",
		face: "rear",
		what: "gutter",
		count: 0,
		largest: "",
		fresh: "unknown",
		spatter_from_deg: null,
	});
	const first = await group("Soft metal M1");
	const from = first.getByRole("textbox", { name: "Spatter from, degrees" });
	await user.clear(from);
	await user.tab();
	await waitFor(() => expect(kept().soft?.[0]).toEqual({ ...gutter, spatter_from_deg: null }));
	await user.click((await group("Soft metal M2")).getByRole("button", { name: "Take out" }));
	await waitFor(() => expect(kept().soft?.map((s) => s.id)).toEqual(["M1"]));
});

const even = { break_even_hits_per_100sqft: 8.25, repair_cost_at_rate: 640.4, replace_cost: 5400 };
const SLOPES = [
	slope("A.+v", "rear slope", { even_sure: even, verdict: "Mending costs less." }),
	slope("A.-v", "front slope", { even_sure: null }),
];

it("costs are left out while nobody asks, begin with what is usual, and go again", async () => {
	const { user, kept } = await opened("Mend or renew", {}, () => ({ slopes: SLOPES }));
	expect(screen.queryByRole("textbox", { name: "Mending one hit" })).toBeNull();
	await user.click(await screen.findByRole("button", { name: "Compare costs" }));
	await waitFor(() => expect(kept().costs).toMatchObject({ repair_per_hit: 20, difficulty: 1 }));
	const square = await screen.findByRole("textbox", { name: "A new covering, for each 100 sq ft" });
	await user.clear(square);
	await user.type(square, "512.5");
	await user.tab();
	await waitFor(() => expect(kept().costs?.replace_per_square).toBe(512.5));
	await user.type(screen.getByRole("textbox", { name: "In what money" }), "crowns");
	await user.tab();
	await waitFor(() => expect(kept().costs?.currency).toBe("crowns"));
	// Only the slope that was counted has a row, in whole money.
	const rows = within(screen.getByRole("table")).getAllByRole("row");
	expect(rows.map((r) => [...r.children].map((c) => c.textContent))).toEqual([
		["Slope", "Break-even, hits on 100 sq ft", "Mending at the rate found", "New covering", "What follows"],
		["rear slope", "8.3", "640 crowns", "5400 crowns", "Mending costs less."],
	]);
	await user.click(screen.getByRole("button", { name: "Leave costs out" }));
	await waitFor(() => expect(kept().costs).toBeNull());
});

it("a cost that cannot be stands at its field and at the head of the bench", async () => {
	const costs = { currency: "", repair_per_hit: 20, repair_fixed: 150, replace_per_square: 450, difficulty: 1 };
	const refused = { code: "invalid", message: "Mending cannot be so hard.", field: "costs.difficulty" };
	const { user, kept } = await opened("Mend or renew", { costs }, undefined, {
		[`PUT /jobs/${JOB}/storm`]: () => json(refused, 422),
	});
	const hard = await screen.findByRole<HTMLInputElement>("textbox", { name: "How much harder mending is here" });
	await user.clear(hard);
	await user.type(hard, "900");
	await user.tab();
	expect(await screen.findByText("Not kept: Mending cannot be so hard.")).toBeTruthy();
	expect([hard.value, hard.getAttribute("aria-invalid")]).toEqual(["900", "true"]);
	expect(kept().costs).toEqual(costs);
});

it("which storm: the likeliest first with what speaks for it, the others folded, and what goes against all of them", async () => {
	const factor = (bits: number, words: string) => ({ what: words, bits, words });
	const which = {
		words: "It was most likely the hail of 7 October.",
		conflicts: ["The marks were there on 1 September, by a picture."],
		ranked: [
			{
				event: "E1",
				words: "hail of 7 October",
				p: 0.83,
				factors: [factor(2.44, "the side that was hit"), factor(-0.5, "its size")],
			},
			{ event: null, words: "something older", p: 0.17, factors: [factor(1, "oxidised marks")] },
		],
	};
	await opened("Which storm", { events: [], dated: [] }, () => ({ which }));
	const storms = within(await screen.findByRole("list", { name: "Storms" })).getAllByRole("listitem");
	expect(storms[0]?.textContent).toContain("Hail of 7 October");
	expect(screen.getByText("+2.4 bits")).toBeTruthy();
	expect(screen.getByText("−0.5 bits")).toBeTruthy();
	expect(screen.getByRole("note").textContent).toBe("The marks were there on 1 September, by a picture.");
	expect(screen.getByText("What speaks for it and against")).toBeTruthy();
});

it("a storm people speak of is typed in the reader's units, and an emptied figure is none", async () => {
	const event = { id: "E1", on: "2026-10-07", hail_mm: 28, gust_m_s: 22, from_deg: 225, km: 3 };
	const { user, kept } = await opened("Which storm", { events: [event], dated: [] });
	await user.click(await screen.findByText("Storms on record (1)"));
	const storm = await group("Storm E1");
	const hail = storm.getByRole("textbox", { name: /^Largest hail/ });
	await user.clear(hail);
	await user.tab();
	await waitFor(() => expect(kept().events?.[0]).toEqual({ ...event, hail_mm: null }));
	await user.click(screen.getByRole("button", { name: "Add a storm people speak of" }));
	await waitFor(() => expect(kept().events?.[1]).toMatchObject({ id: "E2", hail_mm: null, gust_m_s: null, km: 0 }));
	await user.click(storm.getByRole("button", { name: "Take out" }));
	await waitFor(() => expect(kept().events?.map((e) => e.id)).toEqual(["E2"]));
});
