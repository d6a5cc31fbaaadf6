import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, person, serve, show } from "../../testing";
import { Moisture, type MoisturePage } from "./Moisture";

type Kept = MoisturePage["moisture"];
const wall = (length: string) => ({ length, turn: "" });
const ROOM = {
	id: "K1",
	name: "store room",
	x: "",
	y: "",
	floor: "",
	height: "2.4 m",
	walls: [wall("4 m"), wall("3 m"), wall("4 m"), wall("3 m")],
};
const said = (id: string, value: number, at: object, placed: boolean) => ({
	note_id: id,
	text: `${value} percent at the baseboard`,
	placed,
	reading: {
		id: "P7",
		instrument: "pin",
		on: "2026-11-18",
		at: { room: "K1", part: "wall", wall: 0, mass: "", face: null, along: "", up: "5 cm", ...at },
		scale: "wood",
		material: "softwood",
		value,
		dry: false,
	},
});

function server(told: ReturnType<typeof said>[]) {
	let kept = { rooms: [ROOM], readings: [], air: [], heat: [] } as unknown as Kept;
	let rev = 1;
	const path = `/jobs/${JOB}/moisture`;
	serve({
		[`GET ${path}`]: () => ({
			moisture: kept,
			rev,
			account: {
				rooms: [],
				maps: [],
				drying: [],
				air: [],
				air_says: [],
				heat: [],
				left: [],
				spots: [],
				doubts: [],
				outlines: [],
			},
			plan: null,
			maps: [],
			drying: [],
			told: told.filter((t) => !(kept.readings ?? []).some((r) => r.value === t.reading.value)),
		}),
		[`PUT ${path}`]: (b) => {
			kept = (b as { body: Kept }).body;
			rev += 1;
			return { id: JOB, rev, body: kept };
		},
	});
	return () => kept;
}
const view = { job: { id: JOB, body: { brief: { visited_on: "2026-11-18" } } }, units: "metric" };

it("a told reading with all of its place goes on its map by one press", async () => {
	const user = person();
	const kept = server([said("n1", 28, { wall: 2, along: "2 ft" }, true)]);
	show(<Moisture />, { outlet: view });
	const list = await screen.findByRole("list", { name: "Readings told on the round" });
	expect(kept().readings).toEqual([]);
	await user.click(within(list).getByRole("button", { name: "Put it on its map" }));
	await waitFor(() =>
		expect(kept().readings?.[0]).toMatchObject({
			id: "P1",
			value: 28,
			scale: "wood",
			instrument: "pin",
			on: "2026-11-18",
			dry: false,
		}),
	);
	expect(kept().readings?.[0]?.at).toMatchObject({ room: "K1", wall: 2, along: "2 ft", up: "5 cm" });
	await waitFor(() => expect(screen.queryByRole("list", { name: "Readings told on the round" })).toBeNull());
});

it("what was not said of its place is asked for, and nothing is put anywhere before", async () => {
	const user = person();
	const kept = server([said("n1", 26, {}, false)]);
	show(<Moisture />, { outlet: view });
	await user.click(await screen.findByRole("button", { name: "Say where, and put it there" }));
	const where = await screen.findByRole("group", { name: "Where 26 was read" });
	const put = within(where).getByRole("button", { name: "Put it there" });
	expect(put.hasAttribute("disabled") || put.getAttribute("aria-disabled") === "true").toBe(true);
	const fields = within(where).getAllByRole("textbox");
	await user.type(fields[0] as HTMLElement, "1.2 m");
	await user.click(within(where).getByRole("button", { name: "Put it there" }));
	await waitFor(() => expect(kept().readings?.[0]?.at).toMatchObject({ room: "K1", along: "1.2 m", up: "5 cm" }));
});

it("a figure that is none is not taken", async () => {
	const user = person();
	const kept = server([]);
	show(<Moisture />, { outlet: view });
	await user.type(await screen.findByLabelText("It shows"), "wet");
	expect(await screen.findByText("Type the figure alone, as 28.")).toBeTruthy();
	const take = screen.getByRole("button", { name: "Take the reading" });
	expect(take.hasAttribute("disabled") || take.getAttribute("aria-disabled") === "true").toBe(true);
	expect(kept().readings).toEqual([]);
});

it("a reading in the making is there again after another bench: its place, its figure, and that it is a reference", async () => {
	const user = person();
	const kept = server([]);
	show(<Moisture />, { outlet: view });
	const group = async () => within(await screen.findByRole("group", { name: "Take a reading" }));
	const places = async () => (await group()).getAllByRole<HTMLInputElement>("textbox").map((f) => f.value);
	const before = await places();
	await user.clear((await group()).getAllByRole("textbox")[0] as HTMLElement);
	await user.type((await group()).getAllByRole("textbox")[0] as HTMLElement, "2.35 m");
	await user.type(screen.getByLabelText("It shows"), "31");
	await user.click((await group()).getByRole("checkbox", { name: /surely dry/ }));
	cleanup();
	show(<Moisture />, { outlet: view });
	const after = await places();
	expect([after[0], after.at(-1)]).toEqual(["2.35 m", "31"]);
	expect(after.slice(1, -1)).toEqual(before.slice(1, -1));
	await user.click(screen.getByRole("button", { name: "Take the reading" }));
	await waitFor(() => expect(kept().readings?.[0]).toMatchObject({ value: 31, dry: true, at: { along: "2.35 m" } }));
	// The figure was for that place; the next one is typed anew. So is, after another bench, that it is a reference.
	expect((await places()).at(-1)).toBe("");
	const reference = async () => (await group()).getByRole<HTMLInputElement>("checkbox", { name: /surely dry/ }).checked;
	expect(await reference()).toBe(true);
	cleanup();
	show(<Moisture />, { outlet: view });
	expect(await reference()).toBe(false);
});
