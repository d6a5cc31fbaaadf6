import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { person, serve, show } from "../../testing";
import { type Building, BuildingPage } from "./BuildingPage";

const ID = "0190aaaa-0000-7000-8000-0000000000c1";
const event = (id: string, on: string, text: string) => ({ id, on, what: "repair", text });

function opened(building: object, account: object = {}) {
	let body = { name: "Mill", address: "", events: [], things: [], reserve_years: 20, ...building } as unknown as Building;
	let rev = 2;
	const page = () => ({
		building: { id: ID, rev, body },
		account: {
			comes_back: [],
			time_line: [],
			series: [],
			places: [],
			upkeep: [],
			things: [],
			reserve: null,
			problem: null,
			...account,
		},
		curve: null,
	});
	const sent = serve({
		[`GET /buildings/${ID}`]: page,
		[`PUT /buildings/${ID}`]: (put) => {
			body = (put as { body: Building }).body;
			rev += 1;
			return { id: ID, rev, body };
		},
	});
	show(<BuildingPage />, { at: `/buildings/${ID}`, path: "/buildings/:building" });
	return { saved: () => sent.filter((s) => s.to.startsWith("PUT")).map((s) => (s.body as { body: Building }).body) };
}

it("what happened between the visits is written beside what is there, and taken out alone", async () => {
	const user = person();
	const { saved } = opened({
		events: [event("E1", "2024-05-02", "Repaired: valley"), event("E3", "2025-01-09", "Repaired: sill")],
	});
	await user.click(await screen.findByText("Repairs, papers and storms between the visits"));
	await user.click(screen.getByRole("button", { name: "A storm" }));
	await waitFor(() => expect(saved().at(-1)?.events).toHaveLength(3));
	// A name is never given twice, also where one between was taken out before.
	expect(saved().at(-1)?.events?.at(-1)).toMatchObject({ id: "E4", what: "storm", text: "Storm: " });
	const texts = screen.getAllByRole<HTMLInputElement>("textbox", { name: "What happened" });
	await user.type(texts[2] as HTMLElement, "hail from the west");
	await user.tab();
	await waitFor(() => expect(saved().at(-1)?.events?.at(-1)?.text).toBe("Storm: hail from the west"));
	await user.click(screen.getByRole("button", { name: "Take E1 out" }));
	await waitFor(() =>
		expect(
			saved()
				.at(-1)
				?.events?.map((e) => e.id),
		).toEqual(["E3", "E4"]),
	);
});

it("what comes back, and where somebody can be hurt, is said; what was read once is counted, not hidden", async () => {
	const user = person();
	const value = (on: string, v: number) => ({ on, value: v, words: `${v} mm` });
	opened(
		{},
		{
			comes_back: ["the stain in the store room"],
			series: [
				{ kind: "crack", name: "C1", values: [value("2024-01-01", 1), value("2026-01-01", 2)] },
				{ kind: "crack", name: "C2", values: [value("2026-01-01", 4)] },
			],
			upkeep: [
				{
					id: "u1",
					season: "Autumn",
					words: "Clear the gutters",
					why: "leaves",
					because: ["G1 choked"],
					caution: "A ladder wants a second person.",
				},
			],
		},
	);
	expect((await screen.findByRole("list", { name: "What keeps coming back" })).textContent).toContain("store room");
	await user.click(screen.getByRole("tab", { name: "Series" }));
	const cracks = within(screen.getByRole("region", { name: "Cracks" }));
	expect(cracks.getByRole("rowheader", { name: "C1" })).toBeTruthy();
	expect(cracks.queryByRole("rowheader", { name: "C2" })).toBeNull();
	expect(cracks.getByText("One more was read once only.")).toBeTruthy();
	await user.click(screen.getByRole("tab", { name: "Upkeep" }));
	const autumn = within(screen.getByRole("region", { name: "Autumn" }));
	expect(autumn.getByText("A ladder wants a second person.")).toBeTruthy();
	expect(autumn.getByText("Found: G1 choked.")).toBeTruthy();
});

it("what goes into the reserve is added, changed and taken out by its name; years ahead stay within sixty", async () => {
	const user = person();
	const { saved } = opened({
		things: [{ id: "T1", name: "Pump", cost: 900, soonest: 2, middle: 6, latest: 9, again_after: 10 }],
	});
	await user.click(await screen.findByRole("tab", { name: "Reserve" }));
	await user.click(screen.getByRole("button", { name: "Something else that costs" }));
	await waitFor(() =>
		expect(
			saved()
				.at(-1)
				?.things?.map((t) => t.id),
		).toEqual(["T1", "T2"]),
	);
	const costs = screen.getAllByRole<HTMLInputElement>("textbox", { name: "Costs each time" });
	await user.clear(costs[1] as HTMLElement);
	await user.type(costs[1] as HTMLElement, "1200{Enter}");
	await waitFor(() => expect(saved().at(-1)?.things?.[1]?.cost).toBe(1200));
	expect(saved().at(-1)?.things?.[0]).toMatchObject({ cost: 900, again_after: 10 });
	const ahead = screen.getByRole<HTMLInputElement>("textbox", { name: "Years it looks ahead" });
	await user.clear(ahead);
	await user.type(ahead, "400{Enter}");
	await waitFor(() => expect(saved().at(-1)?.reserve_years).toBe(60));
	await user.click(screen.getByRole("button", { name: "Take T1 out" }));
	await waitFor(() =>
		expect(
			saved()
				.at(-1)
				?.things?.map((t) => t.id),
		).toEqual(["T2"]),
	);
	expect(saved().at(-1)?.reserve_years).toBe(60);
});
