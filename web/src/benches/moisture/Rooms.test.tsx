import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { useDraft } from "../../parts/draft/useDraft";
import { JOB, json, person, serve, show } from "../../testing";
import { Heat } from "./Heat";
import type { PartProps } from "./Moisture";
import { Rooms } from "./Rooms";

type Kept = Schemas["Moisture"];
const wall = (length: string) => ({ length, turn: "" });
const kitchen = {
	id: "K1",
	name: "kitchen",
	x: "0.3 m",
	y: "0.3 m",
	floor: "",
	height: "2.5 m",
	walls: ["4 m", "3 m", "4 m", "3 m"].map(wall),
};
const side = (n: number, faces: number | null) => ({ wall: n, faces_deg: faces, left: [0, 0], right: [1, 1] });
const account = (rooms: object[] = [], heat: object[] = []) => ({ plan: "", account: { rooms, heat, maps: [] } });

interface HeldProps {
	of: object;
	start: object;
	saved: Kept[];
	part: "rooms" | "heat";
	refuse?: { [field: string]: string } | undefined;
}
function Held({ of, start, saved, part, refuse }: HeldProps) {
	const editing = useDraft<Kept>(JOB, "moisture", { value: start as Kept, rev: 1 }, async (_base, body) => {
		if (refuse) throw Object.assign(new Error(Object.values(refuse)[0]), { code: "invalid", field: Object.keys(refuse)[0] });
		saved.push(body);
		return { rev: 1 + saved.length, body };
	});
	const props = { view: { job: { id: JOB } }, page: of, editing, rooms: [], day: "2026-11-18" } as unknown as PartProps;
	return part === "rooms" ? <Rooms {...props} /> : <Heat {...props} />;
}
function opened(part: "rooms" | "heat", of: object, start: object, units = "metric", refuse?: HeldProps["refuse"]) {
	const saved: Kept[] = [];
	show(<Held {...{ of, start, saved, part, refuse }} />, { outlet: { units } });
	return saved;
}
const room = async (name: string) => within(await screen.findByRole("group", { name: `Room ${name}` }));

it("a room says its area in the reader's units and which of its walls are outside", async () => {
	serve({});
	for (const [units, area] of [
		["metric", "12.0 m²"],
		["us", "129 sq ft"],
	]) {
		const { unmount } = show(
			<Held
				of={account([{ id: "K1", area_m2: 12, problem: null, sides: [side(1, 180), side(2, null), side(4, 270)] }])}
				start={{ rooms: [kitchen] }}
				saved={[]}
				part="rooms"
			/>,
			{ outlet: { units } },
		);
		expect((await room("kitchen")).getByText(`${area}; walls 1 and 4 are outside`)).toBeTruthy();
		unmount();
	}
});

it("a room that does not close says so where its area would stand", async () => {
	serve({});
	opened("rooms", account([{ id: "K1", area_m2: 0, problem: "Its walls miss each other by 0.4 m.", sides: [] }]), {
		rooms: [kitchen],
	});
	const kitchenRoom = await room("kitchen");
	expect(kitchenRoom.getByText("Its walls miss each other by 0.4 m.", { exact: false })).toBeTruthy();
	expect(kitchenRoom.queryByText(/m²/)).toBeNull();
});

it("a new room begins in the reader's own unit, as high as the last one, under a free name", async () => {
	const user = person();
	serve({});
	const saved = opened("rooms", account(), { rooms: [{ ...kitchen, height: "2.8 m" }] }, "us");
	await user.click(await screen.findByRole("button", { name: /Add a room|Tape a room/ }));
	await waitFor(() => expect(saved.at(-1)?.rooms).toHaveLength(2));
	expect(saved.at(-1)?.rooms?.[0]).toMatchObject({ id: "K1", height: "2.8 m" });
	expect(saved.at(-1)?.rooms?.[1]).toMatchObject({
		id: "K2",
		x: "1 ft",
		height: "2.8 m",
		walls: ["12 ft", "10 ft", "12 ft", "10 ft"].map(wall),
	});
});

it("a wall is typed, added and taken out by its number, and the others keep theirs", async () => {
	const user = person();
	serve({});
	const saved = opened("rooms", account(), { rooms: [kitchen] });
	const k = await room("kitchen");
	await user.click(k.getByText("Place and walls"));
	const second = within(k.getByRole("group", { name: "Wall 2" }));
	await user.clear(second.getByRole("textbox", { name: "Length" }));
	await user.type(second.getByRole("textbox", { name: "Length" }), "9 ft 10 in");
	await user.type(second.getByRole("textbox", { name: "Turn after it" }), "88");
	await user.tab();
	const walls = () => saved.at(-1)?.rooms?.[0]?.walls;
	await waitFor(() => expect(walls()).toEqual([wall("4 m"), { length: "9 ft 10 in", turn: "88" }, wall("4 m"), wall("3 m")]));
	await user.click(k.getByRole("button", { name: "Add a wall" }));
	await waitFor(() => expect(walls()?.map((w) => w.length)).toEqual(["4 m", "9 ft 10 in", "4 m", "3 m", "1 m"]));
	await user.click(k.getByRole("button", { name: "Take wall 1 out" }));
	await waitFor(() => expect(walls()?.map((w) => w.length)).toEqual(["9 ft 10 in", "4 m", "3 m", "1 m"]));
});

it("what is wrong with a wall stands at that wall, with what was typed", async () => {
	const user = person();
	serve({});
	opened("rooms", account(), { rooms: [kitchen] }, "metric", { "rooms.K1.walls.2.length": "Type a length such as 3.4 m." });
	const k = await room("kitchen");
	await user.click(k.getByText("Place and walls"));
	const field = (n: number) =>
		within(k.getByRole("group", { name: `Wall ${n}` })).getByRole<HTMLInputElement>("textbox", { name: "Length" });
	await user.clear(field(3));
	await user.type(field(3), "long");
	await user.tab();
	expect(await k.findByText("Type a length such as 3.4 m.")).toBeTruthy();
	expect([1, 2, 3, 4].map((n) => field(n).getAttribute("aria-invalid"))).toEqual([null, null, "true", null]);
	expect(field(3).value).toBe("long");
});

const taken = { cell_m: 0.1, grid: [[20, 19.5]], source: "simulated camera" };

it("a picture of heat is kept with what it was taken in, and a camera that fails says so and keeps nothing", async () => {
	const user = person();
	let works = true;
	serve({
		[`GET /jobs/${JOB}/moisture/camera`]: () =>
			works ? taken : json({ code: "busy-camera", message: "The camera is not ready." }, 409),
	});
	const saved = opened("heat", account(), { heat: [] });
	await user.click(await screen.findByRole("checkbox", { name: "The outside is wet" }));
	await user.click(screen.getByRole("button", { name: "Take a picture (simulated camera)" }));
	await waitFor(() => expect(saved.at(-1)?.heat).toHaveLength(1));
	expect(saved.at(-1)?.heat?.[0]).toMatchObject({
		id: "T1",
		on: "2026-11-18",
		cell_m: 0.1,
		conditions: { inside_c: 20, outside_c: 6, wet: true, windy: false, sun_hours_ago: null },
	});
	works = false;
	await user.click(screen.getByRole("button", { name: "Take a picture (simulated camera)" }));
	expect((await screen.findByRole("alert")).textContent).toBe("The camera is not ready.");
	expect(saved.at(-1)?.heat).toHaveLength(1);
});

it("a picture that cannot tell moisture says why and shows no patches as wet", async () => {
	serve({});
	const heat = [
		{
			id: "T1",
			name: "rear wall",
			against: ["The sun was on it an hour ago."],
			patches: [],
			heat: { doubts: ["Cells are coarse."] },
		},
		{ id: "T2", name: "ceiling", against: [], patches: [], heat: null },
		{
			id: "T3",
			name: "skirting",
			against: [],
			patches: [{ at: [0, 0], sentence: "0.4 m² colder by 2.1 K, unconfirmed." }],
			heat: null,
		},
	];
	opened("heat", account([], heat), { heat: [] });
	const of = async (id: string) => within(await screen.findByRole("group", { name: `Picture ${id}` }));
	expect((await of("T1")).getByText(/Not usable for moisture. The sun was on it an hour ago./)).toBeTruthy();
	expect((await of("T1")).getByText("Cells are coarse.")).toBeTruthy();
	expect((await of("T2")).getByText(/Nothing differs from the wall around it/)).toBeTruthy();
	expect((await of("T3")).getByText("0.4 m² colder by 2.1 K, unconfirmed.")).toBeTruthy();
	expect((await of("T3")).queryByText(/Nothing differs/)).toBeNull();
});

it("a table is read with its own size of cell; one that is none stays in its field", async () => {
	const user = person();
	let good = false;
	const sent = serve({
		"POST /moisture/heat-file": () =>
			good ? taken : json({ code: "invalid", message: "Row 1 holds no temperatures.", field: "text" }, 422),
	});
	const saved = opened("heat", account(), { heat: [] }, "us");
	await user.click(await screen.findByText("From the camera's table"));
	const read = screen.getByRole<HTMLButtonElement>("button", { name: "Read the table" });
	expect(read.disabled).toBe(true);
	const table = screen.getByRole<HTMLTextAreaElement>("textbox", { name: "Temperatures, row by row from the top" });
	await user.type(table, "warm cold");
	const cell = screen.getByRole("textbox", { name: "Side of a cell, inches" });
	await user.clear(cell);
	await user.type(cell, "2");
	await user.tab();
	await user.click(read);
	expect((await screen.findByRole("alert")).textContent).toBe("Row 1 holds no temperatures.");
	expect(table.value).toBe("warm cold");
	expect(saved).toEqual([]);
	good = true;
	await user.click(read);
	await waitFor(() => expect(saved.at(-1)?.heat).toHaveLength(1));
	await waitFor(() => expect(table.value).toBe(""));
	const [first] = sent.map((s) => s.body) as [{ text: string; cell_m: number }];
	expect(first.text).toBe("warm cold");
	expect(first.cell_m).toBeCloseTo(0.0508, 8);
});
