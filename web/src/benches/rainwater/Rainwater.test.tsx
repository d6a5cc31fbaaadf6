import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { queryClient } from "../../api/queries";
import { standing } from "../../parts/draft/keeper";
import { JOB, json, person, serve, show } from "../../testing";
import type { RainPage } from "./kinds";
import { Rainwater } from "./Rainwater";

type Kept = Schemas["Rainwater"];
const eave = (key: string, label: string, length_m: number) => ({
	key,
	edge: `e ${key}`,
	label,
	face: "rear",
	length_m,
	sheet_m2: 40,
	burst_m2: 0,
	l_min: 80,
	drops_m: null,
	gutter: null,
	pieces: [],
});
const EAVES = [eave("A.+v", "rear eave", 9.5), eave("A.-v", "front eave", 6)];

/** What the server would say of a record; only what the page needs of it. */
function page(rainwater: Kept, rev: number, more: object = {}): RainPage {
	const account = {
		design: "Designed for 132 mm/h.",
		design_mm_h: 132,
		balance: "Every litre is told.",
		doubts: [],
		law: null,
		eaves: EAVES,
		starts: {},
		checks: [],
		offered: [],
		gutters: [],
		flats: [],
	};
	return {
		rainwater,
		rev,
		account,
		plan: "<svg/>",
		rains: [{ years: 10, mm_h: 132 }],
		sections: [],
		flats: [],
		flat_masses: [],
		costs: [{ change: "clean", words: "clean a gutter", usual: 120 }],
		comparison: null,
		...more,
	} as unknown as RainPage;
}

function opened(
	start: object,
	{ more = {} as Parameters<typeof serve>[0], units = "metric", tried = {} as object, rev = 1 } = {},
) {
	let kept = start as Kept;
	const path = `/jobs/${JOB}/rainwater`;
	const sent = serve({
		[`GET ${path}`]: () => page(kept, rev),
		[`POST ${path}/try`]: (b) => page(b as Kept, rev, tried),
		[`PUT ${path}`]: (b) => {
			kept = (b as { body: Kept }).body;
			rev += 1;
			return { id: JOB, rev, body: kept };
		},
		...more,
	});
	show(<Rainwater />, {
		outlet: { job: { id: JOB }, notes: [], pictures: [], roof_rev: 1, practice_version: 1, units, coverage: { cells: [] } },
	});
	return { user: person(), kept: () => kept, sent };
}
const row = (years: number, i5_mm_h: number) => ({ years, i5_mm_h, i60_mm_h: i5_mm_h / 4 });
const WEATHER = `GET /jobs/${JOB}/rainwater/weather`;

it("an office that does not answer says why, and what was typed of the rain stays", async () => {
	let works = false;
	const { user, kept } = opened(
		{ storm: {} },
		{
			more: {
				[WEATHER]: () =>
					works
						? { rows: [row(10, 132), row(100, 210)], words: "Two rains.", source: "weather office, simulated" }
						: json({ code: "away", message: "The weather office is closed." }, 503),
			},
		},
	);
	await user.type(await screen.findByRole("textbox", { name: /^Over 5 minutes/ }), "140 mm/h");
	await user.click(screen.getByRole("button", { name: "Ask the weather office (simulated)" }));
	expect(await screen.findByText("The weather office is closed.")).toBeTruthy();
	await waitFor(() => expect(kept().storm?.i5).toBe("140 mm/h"));
	works = true;
	await user.click(screen.getByRole("button", { name: "Ask the weather office (simulated)" }));
	await user.click(await screen.findByRole("button", { name: /^Take once in 100 years/ }));
	expect(screen.queryByText("The weather office is closed.")).toBeNull();
	// The rain that was taken is the one to design for, and the others can be looked at beside it.
	await waitFor(() => expect(kept().storm).toMatchObject({ i5: "210 mm/h", i60: "52.5 mm/h", years: 100 }));
	expect(kept().rains?.map((r) => r.years)).toEqual([10]);
});

it("a gutter is hung under the first eave without one, over its whole length, in the reader's unit", async () => {
	const gutter = { id: "G7", eave: "A.+v", width: "6 in", depth: "4 in", form: "box", levels: "0 0", outlets: [], round: [] };
	const { user, kept } = opened({ storm: {}, gutters: [gutter] }, { units: "us" });
	await user.click(await screen.findByRole("button", { name: "Hang one like the last under the next eave" }));
	await waitFor(() => expect(kept().gutters).toHaveLength(2));
	// Six metres are 19 ft 8 in, and fall 5 mm a metre until they are measured: 30 mm.
	expect(kept().gutters?.[1]).toMatchObject({
		id: "G8",
		eave: "A.-v",
		width: "6 in",
		depth: "4 in",
		form: "box",
		levels: "0 0, 19 ft 8 in 1 3/16 in",
		outlets: [{ from_left: "19 ft 8 in", bore: "3 in", ends: "ground" }],
	});
	await waitFor(() =>
		expect(screen.getByRole<HTMLButtonElement>("button", { name: "Hang one like the last under the next eave" }).disabled).toBe(
			true,
		),
	);
});

it("in metric the first gutter begins with what is usual", async () => {
	const { user, kept } = opened({ storm: {} });
	await user.click(await screen.findByRole("button", { name: "Hang a gutter" }));
	await waitFor(() => expect(kept().gutters).toHaveLength(1));
	expect(kept().gutters?.[0]).toMatchObject({
		id: "G1",
		width: "125 mm",
		levels: "0 0, 9.5 48 mm",
		outlets: [{ from_left: "9.50 m", bore: "75 mm" }],
	});
});

const TRIED = {
	comparison: { changes: ["take G1 down"], gutter: "G1", face: "rear", sentence: "Before, 3 L/min spill.", rows: [] },
};
const G1 = {
	id: "G1",
	name: "",
	eave: "A.+v",
	width: "125 mm",
	depth: "62 mm",
	form: "half-round",
	levels: "0 0",
	outlets: [],
	round: [],
};

it("what is tried is not kept; discarded it is gone, built like this it is kept", async () => {
	const { user, kept } = opened({ storm: {}, gutters: [G1] }, { tried: TRIED });
	const width = () => screen.findByRole<HTMLInputElement>("textbox", { name: /^Width/ });
	await user.click(await screen.findByRole("button", { name: "Change" }));
	await user.click(await screen.findByRole("button", { name: "Try a change" }));
	// Nothing is changed yet, and nothing would be missed.
	expect(standing()).toBe("kept");
	await user.clear(await width());
	await user.type(await width(), "150 mm");
	await user.tab();
	expect(await screen.findByText("take G1 down.")).toBeTruthy();
	expect(kept().gutters?.[0]?.width).toBe("125 mm");
	expect(standing()).toBe("typed");
	await user.click(screen.getByRole("button", { name: "Discard" }));
	expect(standing()).toBe("kept");
	await waitFor(async () => expect((await width()).value).toBe("125 mm"));
	await user.click(screen.getByRole("button", { name: "Try a change" }));
	await user.clear(await width());
	await user.type(await width(), "150 mm");
	await user.click(await screen.findByRole("button", { name: "It is built like this: keep as met" }));
	await waitFor(() => expect(kept().gutters?.[0]?.width).toBe("150 mm"));
});

it("what is kept by somebody else while a change is tried stays kept when the trial is", async () => {
	const G2 = { ...G1, id: "G2", eave: "A.-v", name: "" };
	const first = opened({ storm: {}, gutters: [G1, G2] }, { tried: TRIED });
	await first.user.click(await screen.findByRole("button", { name: "Try a change" }));
	await first.user.click((await screen.findAllByRole("button", { name: "Change" }))[0] as HTMLElement);
	const width = await screen.findByRole("textbox", { name: /^Width/ });
	await first.user.clear(width);
	await first.user.type(width, "150 mm");
	await first.user.tab();
	// Another bench is looked at; meanwhile the second gutter is named elsewhere.
	cleanup();
	queryClient.clear();
	const second = opened({ storm: {}, gutters: [G1, { ...G2, name: "over the porch" }] }, { tried: TRIED, rev: 2 });
	await screen.findByText("take G1 down.");
	await second.user.click(screen.getByRole("button", { name: "It is built like this: keep as met" }));
	await waitFor(() =>
		expect(second.kept().gutters?.map((g) => [g.width, g.name])).toEqual([
			["150 mm", ""],
			["125 mm", "over the porch"],
		]),
	);
});

it("a change that is recommended goes to the gutter it is at, as the server says it", async () => {
	const { user, sent } = opened(
		{ storm: {}, gutters: [G1] },
		{ tried: TRIED, more: { [`PUT /jobs/${JOB}/notes/*`]: (b) => ({ id: "n", rev: 1, body: (b as { body: object }).body }) } },
	);
	await user.click(await screen.findByRole("button", { name: "Try a change" }));
	await user.click(await screen.findByRole("button", { name: "Keep as a recommendation" }));
	const note = () => sent.find((s) => s.to.startsWith(`PUT /jobs/${JOB}/notes/`))?.body as { body: object } | undefined;
	await waitFor(() => expect(note()).toBeTruthy());
	expect(note()?.body).toMatchObject({ kind: "recommendation", place: { face: "rear", zone: "edge", station: "G1" } });
	// The trial is over, and nothing of the record was sent.
	await waitFor(() => expect(screen.queryByRole("region", { name: "A change that is tried" })).toBeNull());
	expect(sent.some((s) => s.to === `PUT /jobs/${JOB}/rainwater`)).toBe(false);
});

it("a search that cannot be made says so, and a cost that is no number is not kept", async () => {
	let works = false;
	const { user, kept } = opened(
		{ storm: {} },
		{
			more: {
				[`GET /jobs/${JOB}/rainwater`]: (_, request) =>
					new URL(request.url).searchParams.get("remedies") !== "true" || works
						? page({ storm: {} } as Kept, 1)
						: json({ code: "busy", message: "Too much is being worked out. Try again soon." }, 503),
			},
		},
	);
	const search = await screen.findByRole("button", { name: /^Search for the smallest change/ });
	await user.click(search);
	expect(await screen.findByText("Too much is being worked out. Try again soon.")).toBeTruthy();
	works = true;
	await user.click(screen.getByRole("button", { name: /^Search for the smallest change/ }));
	await user.click(await screen.findByRole("button", { name: "What changes cost here" }));
	const cost = screen.getByRole<HTMLInputElement>("textbox", { name: /^Clean a gutter/ });
	await user.type(cost, "a lot");
	await user.tab();
	expect(await screen.findByText("Type the cost as a number, for example 240.")).toBeTruthy();
	expect(cost.value).toBe("a lot");
	await user.clear(cost);
	await user.type(cost, "140,5");
	await user.tab();
	await waitFor(() => expect(kept().costs).toEqual({ clean: 140.5 }));
});

it("no roof, no rain: what to do first is said", async () => {
	opened({}, { more: { [`GET /jobs/${JOB}/rainwater`]: () => page({} as Kept, 1, { plan: null }) } });
	expect(await screen.findByText(/Measure it on the Roof bench first/)).toBeTruthy();
	expect(within(screen.getByRole("heading", { name: "Rainwater" })).getByText("Rainwater")).toBeTruthy();
});
