import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobView } from "../../api/queries";
import { JOB, json, person, serve, show } from "../../testing";
import { Counted } from "./Counted";

const item = (id: string, name: string, kind: string, more = {}) => ({ id, rev: 4, body: { face: "rear", kind, name, ...more } });
const asked = (key: string, state: string) => ({ key, state, face: "rear", item: "W1", words: `Sill of W1 ${key}` });
const view = (more = {}) =>
	({
		job: { id: JOB },
		items: [item("i1", "W1", "window", { label: "kitchen" }), item("i2", "D1", "door"), item("i3", "G1", "gutter-run")],
		expectations: [],
		notes: [],
		...more,
	}) as unknown as JobView;
const CHOICES = {
	items: [
		{ value: "window", name: "window" },
		{ value: "door", name: "door" },
		{ value: "penetration", name: "penetration" },
		{ value: "gutter-run", name: "gutter run" },
	],
};

function opened(cell: string, of = view(), more: Parameters<typeof serve>[0] = {}, units = "metric") {
	const sent = serve({
		"GET /choices": () => CHOICES,
		[`PUT /jobs/${JOB}/items/i1`]: (b) => ({ id: "i1", rev: 5, body: (b as { body: object }).body }),
		...more,
	});
	show(<Counted view={of} cell={cell} />, { outlet: { units } });
	return sent;
}
const dialog = async () => within(await screen.findByRole("dialog"));

it("what was counted stands at the height it belongs to, and at no other", async () => {
	opened("rear.openings");
	expect(await screen.findByRole("button", { name: "window W1, kitchen" })).toBeTruthy();
	expect(screen.getByRole("button", { name: "door D1" })).toBeTruthy();
	expect(screen.queryByRole("button", { name: /G1/ })).toBeNull();
});

it("nothing is counted on a roof, on another face, or inside", () => {
	for (const cell of ["rear.roof", "inside"]) {
		opened(cell);
		expect(screen.queryByRole("button", { name: /Count/ })).toBeNull();
	}
	opened("front.openings");
	expect(screen.queryByRole("button", { name: /W1/ })).toBeNull();
});

it("one or four more are counted by two presses, each time under a key of its own", async () => {
	const user = person();
	const sent = opened("rear.openings", view(), { [`POST /jobs/${JOB}/items`]: () => [] });
	for (const [choice, body] of [
		["One window", { face: "rear", kind: "window", count: 1 }],
		["4 windows", { face: "rear", kind: "window", count: 4 }],
		["One door", { face: "rear", kind: "door", count: 1 }],
	] as const) {
		await screen.findByRole("button", { name: "window W1, kitchen" });
		await user.click(screen.getByRole("button", { name: "Count ▾" }));
		await user.click(await screen.findByRole("menuitem", { name: choice }));
		await waitFor(() => expect(sent.at(-1)?.body).toEqual(body));
	}
	expect(new Set(sent.map((s) => s.key)).size).toBe(3);
});

it("what is still asked of one says so, and is answered there; what a note answered is not asked again", async () => {
	const user = person();
	const sent = opened(
		"rear.openings",
		view({ expectations: [asked("a", "open"), asked("b", "noted"), asked("c", "limited"), asked("d", "open")] }),
	);
	await user.click(await screen.findByRole("button", { name: "window W1, kitchen, still to look at" }));
	const d = await dialog();
	expect(d.getByText("answered by a note")).toBeTruthy();
	expect(d.getByText("could not be seen")).toBeTruthy();
	expect(d.getAllByRole("checkbox")).toHaveLength(2);
	await user.click(d.getByRole("checkbox", { name: "Sill of W1 a: looked at, nothing to note" }));
	await user.click(d.getByRole("button", { name: "Keep" }));
	await waitFor(() => expect(sent.at(-1)?.body).toMatchObject({ base: 4, body: { name: "W1", seen: ["a"] } }));
	await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
});

it("how far from the left is typed in the reader's unit and kept in metres", async () => {
	const user = person();
	const sent = opened("rear.openings", view(), {}, "us");
	await user.click(await screen.findByRole("button", { name: "window W1, kitchen" }));
	const d = await dialog();
	await user.type(d.getByRole("textbox", { name: "From the left end of the face, feet" }), "10");
	await user.tab();
	await user.click(d.getByRole("button", { name: "Keep" }));
	await waitFor(() => expect(sent).toHaveLength(1));
	const [{ body }] = sent.map((s) => s.body) as [{ body: { from_left_m: number } }];
	expect(body.from_left_m).toBeCloseTo(3.048, 8);
});

it("what the server refuses stands in the dialog, which stays with what was typed", async () => {
	const user = person();
	opened("rear.openings", view(), {
		[`PUT /jobs/${JOB}/items/i1`]: () => json({ code: "invalid", message: "W1 is there twice.", field: "name" }, 422),
	});
	await user.click(await screen.findByRole("button", { name: "window W1, kitchen" }));
	const d = await dialog();
	const called = d.getByRole<HTMLInputElement>("textbox", { name: "What people call it" });
	await user.type(called, " left");
	await user.click(d.getByRole("button", { name: "Keep" }));
	expect(await d.findByText("W1 is there twice.")).toBeTruthy();
	expect(called.value).toBe("kitchen left");
});

it("one is taken off the count on the revision it was seen at", async () => {
	const user = person();
	let base: string | null = null;
	opened("rear.openings", view(), {
		[`DELETE /jobs/${JOB}/items/i1`]: (_, r) => {
			base = new URL(r.url).searchParams.get("base");
			return {};
		},
	});
	await user.click(await screen.findByRole("button", { name: "window W1, kitchen" }));
	await user.click((await dialog()).getByRole("button", { name: "Take off the count" }));
	await waitFor(() => expect(base).toBe("4"));
	await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
});
