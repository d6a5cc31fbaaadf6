import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { useDraft } from "../../parts/draft/useDraft";
import { JOB, type Person, person, serve, show } from "../../testing";
import { Cracks } from "./Cracks";
import type { PartProps, Walls, WallsPage } from "./kinds";

const reading = (on: string, width: string) => ({ on, at: "middle", width });
const crack = (id: string, more = {}) => ({
	id,
	face: "rear",
	pattern: "diagonal",
	from_x: "1 m",
	from_z: "1 m",
	to_x: "2 m",
	to_z: "2 m",
	displaced: false,
	edges: "unknown",
	readings: [reading("2026-05-01", "0.2 mm"), reading("2026-11-18", "0.6 mm")],
	text: "",
	...more,
});
const page = (more: object = {}) =>
	({
		elevations: [],
		floor: "<svg/>",
		account: { cracks: [], reader: null, floor: null, booked: [], ...more },
	}) as unknown as WallsPage;

function Held({ start, saved, of, wrong }: { start: Partial<Walls>; saved: Walls[]; of: WallsPage; wrong?: string | undefined }) {
	const editing = useDraft<Walls>(JOB, "walls", { value: start as Walls, rev: 1 }, async (_base, body) => {
		if (wrong) throw Object.assign(new Error("Type a width such as 0.4 mm."), { code: "invalid", field: wrong });
		saved.push(body);
		return { rev: 1 + saved.length, body };
	});
	return <Cracks {...({ view: { job: { id: JOB } }, page: of, walls: editing.draft, editing } as unknown as PartProps)} />;
}
function opened(start: object, of = page(), units = "metric", wrong?: string) {
	serve({});
	const saved: Walls[] = [];
	show(<Held {...{ start, saved, of, wrong }} />, { outlet: { units } });
	return saved;
}
const one = async (user: Person, id: string) => {
	const group = within(await screen.findByRole("group", { name: `Crack ${id}` }));
	await user.click(group.getByText(/Where it runs/));
	return group;
};

it("a new crack begins in the reader's unit, at the face of the last one, under a free name", async () => {
	const user = person();
	const saved = opened({ cracks: [crack("C1"), crack("C4", { face: "left" })] }, page(), "us");
	await user.click(await screen.findByRole("button", { name: "Add a crack" }));
	await waitFor(() => expect(saved.at(-1)?.cracks).toHaveLength(3));
	expect(saved.at(-1)?.cracks?.[2]).toMatchObject({ id: "C5", face: "left", from_x: "3 ft", to_z: "6 ft", readings: [] });
});

it("a reading is typed into its own day, and the others and the other cracks keep theirs", async () => {
	const user = person();
	const saved = opened({ cracks: [crack("C1"), crack("C2")] });
	const c = await one(user, "C2");
	const [, second] = c.getAllByRole("textbox", { name: "How wide" }) as [HTMLElement, HTMLElement];
	await user.clear(second);
	await user.type(second, "1/32 in");
	await user.tab();
	await waitFor(() => expect(saved.length).toBeGreaterThan(0));
	const widths = () => saved.at(-1)?.cracks?.map((k) => k.readings?.map((r) => r.width));
	expect(widths()).toEqual([
		["0.2 mm", "0.6 mm"],
		["0.2 mm", "1/32 in"],
	]);
	await user.click(c.getAllByRole("button", { name: "Take out" })[0] as HTMLElement);
	await waitFor(() => expect(widths()).toEqual([["0.2 mm", "0.6 mm"], ["1/32 in"]]));
});

it("a width is read anew where it was read last, today", async () => {
	const user = person();
	const saved = opened({ cracks: [crack("C1", { readings: [{ ...reading("2026-05-01", "0.2 mm"), at: "lower" }] })] });
	const c = await one(user, "C1");
	await user.click(c.getByRole("button", { name: "Read its width" }));
	await waitFor(() => expect(saved.at(-1)?.cracks?.[0]?.readings).toHaveLength(2));
	expect(saved.at(-1)?.cracks?.[0]?.readings?.[1]).toEqual({
		on: new Date().toISOString().slice(0, 10),
		at: "lower",
		width: "0.2 mm",
	});
});

it("what is wrong with a width stands at its crack, with what was typed", async () => {
	const user = person();
	opened(
		{ cracks: [crack("C1"), crack("C2", { readings: [reading("2026-05-01", "0.2 mm")] })] },
		page(),
		"metric",
		"cracks.C2.readings",
	);
	const c = await one(user, "C2");
	const width = c.getByRole<HTMLInputElement>("textbox", { name: "How wide" });
	await user.clear(width);
	await user.type(width, "a hair");
	await user.tab();
	expect(await c.findByText("Type a width such as 0.4 mm.")).toBeTruthy();
	expect(width.value).toBe("a hair");
	expect(within(screen.getByRole("group", { name: "Crack C1" })).queryByText("Type a width such as 0.4 mm.")).toBeNull();
});

it("what the signs speak for is a table of words, not of colours, and says what to measure next", async () => {
	const reader = {
		sentence: "Most speaks for the rear corner settling.",
		movements: ["settling", "heave"],
		signs: [
			{ sign: "C1 opens upward", why: "wider above", speaks: ["for", "against"] },
			{ sign: "a door binds", why: "either would", speaks: ["open", "open"] },
		],
		next: ["Read C1 again in May."],
	};
	opened({ cracks: [] }, page({ reader }));
	const rows = within(await screen.findByRole("table", { name: "What each sign speaks for" })).getAllByRole("row");
	expect(rows.map((r) => [...r.children].map((c) => c.textContent))).toEqual([
		["Sign", "Settling", "Heave"],
		["C1 opens upwardwider above", "for", "against"],
		["a door bindseither would", "·", "·"],
	]);
	expect(within(screen.getByRole("list", { name: "What to measure next" })).getByText("Read C1 again in May.")).toBeTruthy();
});

it("a sign is added, told where it is, and taken out, and the cracks stay", async () => {
	const user = person();
	const saved = opened({
		cracks: [crack("C1")],
		signs: [{ id: "S1", face: "front", kind: "door-binds", from_left: "2 m", text: "" }],
	});
	await user.click(await screen.findByRole("button", { name: "Add a sign" }));
	const second = within(await screen.findByRole("group", { name: "Sign S2" }));
	await user.type(second.getByRole("textbox", { name: "In words" }), "sticks since spring");
	await user.tab();
	await waitFor(() => expect(saved.at(-1)?.signs?.[1]).toMatchObject({ id: "S2", text: "sticks since spring" }));
	await user.click(screen.getByRole("button", { name: "Take S1 out" }));
	await waitFor(() => expect(saved.at(-1)?.signs?.map((s) => s.id)).toEqual(["S2"]));
	expect(saved.at(-1)?.cracks).toHaveLength(1);
});
