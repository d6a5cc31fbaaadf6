import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, layOut, person, serve, show } from "../../testing";
import type { Walls as Kept, WallsPage } from "./kinds";
import { Walls } from "./Walls";

const CHECKS = [
	{ key: "head-lap", words: "Head lap", looks: "the barrier lies over the head flange" },
	{ key: "jambs", words: "Jambs", looks: "side tapes over the flange" },
];
const FACE_CHECKS = [{ key: "holes", words: "Holes", looks: "none in the barrier" }];
const row = (item: string) => ({
	face: "front",
	item,
	words: item ? `Front, ${item}` : "Front",
	keys: (item ? CHECKS : FACE_CHECKS).map((c) => (item ? `front.${item}.${c.key}` : `front.${c.key}`)),
});
// The frame a plan carries: 50 of its units to the metre, four metres deep, a margin of 34.
const FLOOR = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 468 268" data-k="50" data-west="0" data-north="4" data-margin="34"><g role="button" tabindex="-1" data-height="H1" aria-label="H1"><circle r="5"/></g></svg>`;

/** What the server would say; only what the page needs of it. */
function page(walls: Kept, rev: number, more: object): WallsPage {
	const details = (walls.details ?? []).map((d) => ({
		id: d.id,
		name: `Flanged window, front ${d.at}`,
		place: { face: "front", zone: "openings", station: d.at },
		verdict: "wrong",
		sentence: "Water gets in at the head.",
		problem: null,
		offered: null,
		rests_on: [],
		laps: [{ outer: "tape", inner: "sheet", words: "tape over sheet", shingled: false, short: false, turned: false }],
		mending: [],
		order: "",
		too_early: null,
		aged: 1,
		sound: 1,
	}));
	const account = {
		details,
		matrix: {
			opening_checks: CHECKS,
			openings: [row("W1"), row("W2")],
			face_checks: FACE_CHECKS,
			faces: [row("")],
			sentence: "0 of 5 answered.",
		},
		told: [],
		do_not_cover: [],
		rows: [],
		offered_rows: [],
		masonry: [],
		clearances: [],
		cracks: [],
		reader: null,
		floor: null,
		booked: [],
		ways_in: [],
		forms: [{ template: "window", name: "Flanged window", sizes: [], faults: [] }],
		...more,
	};
	return {
		walls,
		rev,
		account,
		drawings: details.map(() => `<svg xmlns="http://www.w3.org/2000/svg"/>`),
		elevations: [],
		floor: FLOOR,
	} as unknown as WallsPage;
}

function server(start: Partial<Kept>, more: (w: Kept) => object = () => ({})) {
	let kept = start as Kept;
	let rev = 1;
	const path = `/jobs/${JOB}/walls`;
	const got = (w: Kept) => page(w, rev, more(w));
	const sent = serve({
		[`GET ${path}`]: () => got(kept),
		[`POST ${path}/try`]: (b) => got(b as Kept),
		[`PUT ${path}`]: (b) => {
			kept = (b as { body: Kept }).body;
			rev += 1;
			return { id: JOB, rev, body: kept };
		},
	});
	return { kept: () => kept, sent };
}
const picture = (id: string, caption: string, note: string | null) => ({
	id,
	rev: 1,
	body: { caption, name: `${caption}.jpg`, note_id: note, width: 4, height: 3, marks: [] },
});
const view = {
	job: { id: JOB, body: { brief: { visit: "before-cladding" } } },
	units: "metric",
	notes: [{ id: "n1", rev: 1, body: { place: { face: "front", zone: "openings", station: "W2" }, text: "head tape behind" } }],
	pictures: [picture("p1", "Head of W2", "n1"), picture("p2", "Other", null)],
	findings: [],
};
const cell = (name: RegExp) => screen.findByRole("button", { name });

it("one key answers a cell, Delete opens it again, and words stay with the answer", async () => {
	const user = person();
	const { kept } = server({});
	show(<Walls />, { outlet: view });
	await user.click(await cell(/Front, W1, Head lap/));
	await user.keyboard("w");
	await waitFor(() => expect(kept().answers?.["front.W1.head-lap"]).toEqual({ found: "wrong", text: "" }));
	await user.type(screen.getByLabelText("In words"), "tape cut short");
	await user.tab();
	await waitFor(() => expect(kept().answers?.["front.W1.head-lap"]?.text).toBe("tape cut short"));
	// Another answer keeps what was said.
	await user.click(await cell(/Front, W1, Head lap/));
	await user.keyboard("r");
	await waitFor(() => expect(kept().answers?.["front.W1.head-lap"]).toEqual({ found: "right", text: "tape cut short" }));
	await user.keyboard("{Delete}");
	await waitFor(() => expect(kept().answers?.["front.W1.head-lap"]).toBeUndefined());
});

it("a letter typed into the words is no answer", async () => {
	const user = person();
	const { kept } = server({ answers: { "front.W2.jambs": { found: "wrong", text: "" } } });
	show(<Walls />, { outlet: view });
	await user.click(await cell(/Front, W2, Jambs/));
	await user.type(await screen.findByLabelText("In words"), "wrxn");
	await user.tab();
	await waitFor(() => expect(kept().answers?.["front.W2.jambs"]).toEqual({ found: "wrong", text: "wrxn" }));
});

it("what was told on the round goes in when somebody says so, one by one or all of it", async () => {
	const user = person();
	const say = (key: string, words: string) => ({ key, words, answer: { found: "wrong", text: words } });
	const all = [
		say("front.W1.jambs", "Front, W1: jambs wrong"),
		say("front.holes", "Front: holes wrong"),
		say("front.W2.jambs", "W2"),
	];
	const open = (w: Kept) => ({ told: all.filter((t) => !w.answers?.[t.key]) });
	const { kept } = server({}, open);
	show(<Walls />, { outlet: view });
	const told = await screen.findByRole("group", { name: "Told on the round" });
	expect(kept().answers ?? {}).toEqual({});
	await user.click(within(told).getAllByRole("button", { name: "Put it in" })[0] as HTMLElement);
	await waitFor(() => expect(Object.keys(kept().answers ?? {})).toEqual(["front.W1.jambs"]));
	await user.click(await screen.findByRole("button", { name: "Put all of it in" }));
	await waitFor(() =>
		expect(Object.keys(kept().answers ?? {}).sort()).toEqual(["front.W1.jambs", "front.W2.jambs", "front.holes"]),
	);
	await waitFor(() => expect(screen.queryByRole("group", { name: "Told on the round" })).toBeNull());
});

const detail = (more = {}) =>
	({ id: "L1", template: "window", face: "front", at: "W2", ...more }) as NonNullable<Kept["details"]>[0];

it("a lap is turned and turned back, and pictures of the place are taken over one by one", async () => {
	const user = person();
	const { kept } = server({ details: [detail()] });
	show(<Walls />, { outlet: view });
	await user.click(await screen.findByRole("tab", { name: "Laps" }));
	await user.click(await screen.findByRole("button", { name: /tape over sheet/ }));
	await waitFor(() => expect(kept().details?.[0]?.turned).toEqual([{ outer: "sheet", inner: "tape" }]));
	await user.click(await screen.findByRole("button", { name: "Turn all laps back" }));
	await waitFor(() => expect(kept().details?.[0]?.turned).toEqual([]));
	// Only the picture of the note at this place is offered.
	expect(screen.queryByRole("button", { name: /“Other”/ })).toBeNull();
	await user.click(screen.getByRole("button", { name: "Take “Head of W2” from the note here" }));
	await waitFor(() => expect(kept().details?.[0]?.pictures).toEqual(["p1"]));
	await user.click(await screen.findByRole("button", { name: "Take Head of W2 off this detail" }));
	await waitFor(() => expect(kept().details?.[0]?.pictures).toEqual([]));
});

it("a height is put where the plan is pressed, in the reader's unit", async () => {
	layOut();
	const user = person();
	const { kept } = server({ floor: [{ id: "H1", x: "0 m", y: "0 m", height: "3 mm" }] });
	show(<Walls />, { outlet: view });
	await user.click(await screen.findByRole("tab", { name: "Cracks and floor" }));
	const heights = await screen.findByRole("group", { name: "Heights" });
	const sheet = () => document.querySelector("svg[data-k]") as Element;
	// With nothing chosen a press changes nothing.
	await user.pointer({ target: sheet(), keys: "[MouseLeft]", coords: { clientX: 134, clientY: 84 } });
	expect(kept().floor?.[0]).toMatchObject({ x: "0 m", y: "0 m" });
	await user.click(within(heights).getByRole("button", { name: /H1/ }));
	await user.pointer({ target: sheet(), keys: "[MouseLeft]", coords: { clientX: 134, clientY: 84 } });
	await waitFor(() => expect(kept().floor?.[0]).toEqual({ id: "H1", x: "2.0 m", y: "3.0 m", height: "3 mm" }));
});

it("a height of the level book is taken once and waits for its place", async () => {
	const user = person();
	const booked = (w: Kept) => ({ booked: (w.floor ?? []).some((p) => p.id === "F1") ? [] : [{ point: "F1", typed: "-12 mm" }] });
	const { kept } = server({}, booked);
	show(<Walls />, { outlet: { ...view, units: "us" } });
	await user.click(await screen.findByRole("tab", { name: "Cracks and floor" }));
	await user.click(await screen.findByRole("button", { name: "Take F1 from the level book: -12 mm" }));
	await waitFor(() => expect(kept().floor).toEqual([{ id: "F1", x: "0 ft", y: "0 ft", height: "-12 mm" }]));
	expect(await screen.findByText(/Press where F1 was read/)).toBeTruthy();
	await waitFor(() => expect(screen.queryByRole("button", { name: /from the level book/ })).toBeNull());
});
