import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft/useDraft";
import { JOB, json, person, serve, show } from "../../testing";
import { Air } from "./Air";
import type { PartProps } from "./Moisture";

type Kept = Schemas["Moisture"];
const reading = (id: string, more: object = {}) => ({
	id,
	place: "room",
	room: "K1",
	t_c: 20.5,
	rh_pct: 60,
	on: "2026-11-18",
	...more,
});
const rooms = [
	{ id: "K1", name: "kitchen" },
	{ id: "K2", name: "pantry" },
];

function Held({ start, said, saved }: { start: object; said: object; saved: Kept[] }) {
	const editing = useDraft<Kept>(JOB, "moisture", { value: start as Kept, rev: 1 }, async (_base, body) => {
		saved.push(body);
		return { rev: 1 + saved.length, body };
	});
	const page = { account: { air: [], air_says: [], ...said } };
	return <Air {...({ view: { job: { id: JOB } }, page, editing, rooms, day: "2026-11-18" } as unknown as PartProps)} />;
}
function opened(air: object[], { units = "metric", said = {}, answers = {} as Parameters<typeof serve>[0] } = {}) {
	const saved: Kept[] = [];
	serve(answers);
	show(<Held start={{ air }} said={said} saved={saved} />, { outlet: { units } });
	return saved;
}
const row = (id: string) => within(screen.getByRole("group", { name: `Air ${id}` }));

it("a temperature is typed in the reader's unit and kept in one; a humidity has none", async () => {
	const user = person();
	for (const [units, typed, kept] of [
		["metric", "12.5", 12.5],
		["us", "50", 10],
	] as const) {
		const saved = opened([reading("A1")], { units });
		const box = row("A1").getByRole("textbox", { name: /^Temperature/ });
		await user.clear(box);
		await user.type(box, typed);
		await user.tab();
		await waitFor(() => expect(saved.at(-1)?.air?.[0]?.t_c).toBeCloseTo(kept, 6));
		const humid = row("A1").getByRole("textbox", { name: "Humidity, %" });
		await user.clear(humid);
		await user.type(humid, "71");
		await user.tab();
		await waitFor(() => expect(saved.at(-1)?.air?.[0]?.rh_pct).toBe(71));
		cleanup();
	}
});

it("the coldest surface may be left out again; what a reading needs is not taken away by emptying its field", async () => {
	const user = person();
	const saved = opened([reading("A1", { surface_c: 9 })]);
	await user.clear(row("A1").getByRole("textbox", { name: /^Coldest surface/ }));
	await user.tab();
	await waitFor(() => expect(saved.at(-1)?.air?.[0]?.surface_c).toBeNull());
	await user.clear(row("A1").getByRole("textbox", { name: "Humidity, %" }));
	await user.tab();
	expect(saved.at(-1)?.air?.[0]).toMatchObject({ t_c: 20.5, rh_pct: 60 });
});

it("a reading may be outside or in the attic, where there is no room; a name is never given twice", async () => {
	const user = person();
	const saved = opened([reading("A1"), reading("A3")]);
	await user.click(row("A1").getByRole("button", { name: /Where/ }));
	await user.click(await screen.findByRole("option", { name: "Attic" }));
	await waitFor(() => expect(saved.at(-1)?.air?.[0]).toMatchObject({ place: "attic", room: "" }));
	await user.click(screen.getByRole("button", { name: "Add a reading of the air" }));
	await waitFor(() => expect(saved.at(-1)?.air?.map((a) => a.id)).toEqual(["A1", "A3", "A4"]));
	expect(saved.at(-1)?.air?.[2]).toMatchObject({ place: "room", room: "K1", on: "2026-11-18" });
	await user.click(screen.getByRole("button", { name: "Take A3 out" }));
	await waitFor(() => expect(saved.at(-1)?.air?.map((a) => a.id)).toEqual(["A1", "A4"]));
});

it("the hygrometer is read in its room, and what it cannot read changes nothing and is said", async () => {
	const user = person();
	let fails = false;
	const saved = opened([], {
		answers: {
			[`GET /jobs/${JOB}/moisture/air`]: () =>
				fails
					? json({ code: "busy", message: "The hygrometer does not answer." }, 503)
					: { t_c: 18.25, rh_pct: 66, surface_c: 11.5, words: "18.3 °C and 66 % in the pantry." },
		},
	});
	await user.click(screen.getByRole("button", { name: "Read the hygrometer in pantry (simulated)" }));
	await waitFor(() =>
		expect(saved.at(-1)?.air?.[0]).toMatchObject({ id: "A1", room: "K2", t_c: 18.25, rh_pct: 66, surface_c: 11.5 }),
	);
	expect(screen.getByText("18.3 °C and 66 % in the pantry.")).toBeTruthy();
	fails = true;
	await user.click(screen.getByRole("button", { name: "Read the hygrometer in kitchen (simulated)" }));
	expect(await screen.findByText("The hygrometer does not answer.")).toBeTruthy();
	expect(saved).toHaveLength(1);
});

it("what the air does is said where it was read, and over all", () => {
	opened([reading("A1"), reading("A2", { place: "outside", room: "" })], {
		said: {
			air_says: ["Water condenses at the coldest surface of the kitchen."],
			air: [{ id: "A1", name: "kitchen", sentence: "Its dew point is 12.5 °C.", wrong: true }],
		},
	});
	expect(screen.getByText("Water condenses at the coldest surface of the kitchen.")).toBeTruthy();
	expect(row("A1").getByText(/Its dew point is 12.5 °C/)).toBeTruthy();
	// One the server has not spoken of yet is shown by its name.
	expect(row("A2").getByText("A2")).toBeTruthy();
});
