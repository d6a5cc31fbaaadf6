import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobView, RoofRecord } from "../../api/queries";
import { useDraft } from "../../parts/draft/useDraft";
import { JOB, json, type Person, person, serve, show } from "../../testing";
import { Life } from "./Life";
import type { Page } from "./useRoof";

const VIEW = { job: { id: JOB, body: { brief: { visited_on: "2026-11-18" } } }, bundles: [], findings: [] };
const slope = (facet: string, label: string, more: object = {}) => ({
	facet,
	label,
	covering: "slate",
	signs: [],
	modifiers: [],
	life: null,
	...more,
});
const COVERING = {
	covering: "slate",
	name: "slate",
	worst: "rear slope",
	plan_year: 2031,
	ready_from: 2029,
	squares: 12,
	cost_per_square: 900,
	cost: 10800,
	reserve_per_year: 2160,
	overdue: null,
	conflicts: [],
	schools: "",
};
type Route = Parameters<typeof serve>[0];

interface HeldProps {
	start: object;
	slopes: object[];
	kept: RoofRecord[];
	refuse: { [field: string]: string } | undefined;
}
function Held({ start, slopes, kept, refuse }: HeldProps) {
	const editing = useDraft<RoofRecord>(JOB, "roof", { value: start as RoofRecord, rev: 1 }, async (_base, body) => {
		if (refuse) throw Object.assign(new Error(Object.values(refuse)[0]), { code: "invalid", field: Object.keys(refuse)[0] });
		kept.push(body);
		return { rev: 1 + kept.length, body };
	});
	const page = { account: { slopes, coverings: [COVERING], papers: [] }, lives: slopes.map(() => null) } as unknown as Page;
	return <Life view={VIEW as unknown as JobView} page={page} editing={editing} chosen={null} onChoose={() => {}} />;
}
function opened(
	start: object,
	{ slopes = [slope("A.+v", "rear slope")], more = {} as Route, refuse = undefined as HeldProps["refuse"] } = {},
) {
	const signs = [{ key: "granules", name: "granule loss", looks: ["none", "some", "much", "bald", "gone"] }];
	const sent = serve({ "GET /roof-choices": () => ({ signs, coverings: [] }), ...more });
	const kept: RoofRecord[] = [];
	show(<Held {...{ start, slopes, kept, refuse }} />);
	return { user: person(), kept, sent };
}
const retype = async (user: Person, box: HTMLElement, text: string) => {
	await user.clear(box);
	await user.type(box, text);
	await user.tab();
};
const stated = (more: object = {}) => ({
	kind: "stated",
	years: 10,
	first_hand: false,
	source: "the owner",
	masses: [],
	set_aside: false,
	...more,
});

it("a figure can be typed from nothing: what is half typed is no figure yet and is not put right under the hand", async () => {
	const { user, kept } = opened({ masses: [] });
	const wait = screen.getByRole<HTMLInputElement>("textbox", { name: "A worn-out roof stays on, years on average" });
	await user.clear(wait);
	expect(wait.value).toBe("");
	await user.keyboard("0.5");
	expect(wait.value).toBe("0.5");
	expect(kept).toEqual([]);
	await user.tab();
	await waitFor(() => expect(kept.at(-1)?.setting?.wait_years).toBe(0.5));
});

it("a cost that is emptied is the practice's again, and the others stay", async () => {
	const { user, kept } = opened({ masses: [], setting: { cost_per_square: { slate: 1200, shake: 700 } } });
	const cost = screen.getByRole<HTMLInputElement>("textbox", { name: "Cost of a square of slate" });
	expect(cost.value).toBe("1,200");
	await retype(user, cost, "1350.5");
	await waitFor(() => expect(kept.at(-1)?.setting?.cost_per_square).toEqual({ slate: 1350.5, shake: 700 }));
	await user.clear(cost);
	await user.tab();
	await waitFor(() => expect(kept.at(-1)?.setting?.cost_per_square).toEqual({ shake: 700 }));
	await waitFor(() => expect(cost.value).toBe("900"));
});

it("years that are given are typed whole, and another kind of evidence keeps who says so", async () => {
	const { user, kept } = opened({ masses: [], papers: [stated(), stated({ source: "the roofer" })] });
	const papers = within(screen.getByRole("region", { name: "Papers and statements" }));
	await retype(user, papers.getAllByRole("textbox", { name: "Years they give" })[1] as HTMLElement, "17");
	await waitFor(() => expect(kept.at(-1)?.papers).toEqual([stated(), stated({ source: "the roofer", years: 17 })]));
	await user.click(papers.getByRole("button", { name: /Evidence 2/ }));
	await user.click(await screen.findByRole("option", { name: "Dated picture" }));
	await waitFor(() =>
		expect(kept.at(-1)?.papers?.[1]).toEqual({
			kind: "picture",
			on: "2026-11-18",
			there: true,
			source: "the roofer",
			masses: [],
			set_aside: false,
		}),
	);
});

it("how often such papers are right is said in a hundred, and kept as a share", async () => {
	const permit = { kind: "permit", on: "2009-05-01", source: "", masses: [], set_aside: false };
	const { user, kept } = opened({ masses: [], papers: [permit] });
	const right = screen.getByRole<HTMLInputElement>("textbox", { name: "Right, in a hundred such papers" });
	expect(right.value).toBe("95");
	await retype(user, right, "80");
	await waitFor(() => expect(kept.at(-1)?.papers?.[0]).toEqual({ ...permit, right: 0.8 }));
});

it("what the server refuses stands at the field of its paper, as it was typed", async () => {
	const { user, kept } = opened(
		{ masses: [], papers: [stated(), stated()] },
		{ refuse: { "papers.1.years": "The house is 59 years old." } },
	);
	const years = () => screen.getAllByRole<HTMLInputElement>("textbox", { name: "Years they give" });
	await retype(user, years()[1] as HTMLElement, "70");
	expect(await screen.findByText("The house is 59 years old.")).toBeTruthy();
	expect(years().map((y) => [y.value, y.getAttribute("aria-invalid")])).toEqual([
		["10", null],
		["70", "true"],
	]);
	expect(kept).toEqual([]);
});

it("permits of the office are taken one by one, and one that is among the papers is not offered again", async () => {
	const permits = [
		{ on: "1998-03-02", kind: "roof", words: "re-roof" },
		{ on: "2009-05-01", kind: "roof", words: "repair" },
	];
	const there = { kind: "permit", on: "2009-05-01", source: "the owner's copy", masses: [], set_aside: false };
	let works = false;
	const { user, kept } = opened(
		{ masses: [], papers: [there] },
		{
			more: {
				[`GET /jobs/${JOB}/roof/records`]: () =>
					works
						? { permits, words: "Two permits.", source: "records office, simulated" }
						: json({ code: "away", message: "The office is closed." }, 503),
			},
		},
	);
	await user.click(screen.getByRole("button", { name: "Ask the records office (simulated)" }));
	expect(await screen.findByText("The office is closed.")).toBeTruthy();
	expect(kept).toEqual([]);
	works = true;
	await user.click(await screen.findByRole("button", { name: "Ask the records office (simulated)" }));
	await screen.findByText(/Two permits/);
	expect(screen.queryByText("The office is closed.")).toBeNull();
	expect(screen.getByText("already among the papers")).toBeTruthy();
	await user.click(screen.getByRole("button", { name: "Add to the papers" }));
	await waitFor(() => expect(kept.at(-1)?.papers).toHaveLength(2));
	expect(kept.at(-1)?.papers?.[1]).toMatchObject({ kind: "permit", on: "1998-03-02", source: "records office, simulated" });
	await waitFor(() => expect(screen.queryByRole("button", { name: "Add to the papers" })).toBeNull());
});

it("a sign is graded by its drawing and taken back, and other slopes keep theirs", async () => {
	const graded = [slope("A.+v", "rear slope", { signs: [{ sign: "granules", grade: 2 }] })];
	const { user, kept } = opened({ masses: [], wear: { "A.-v": { granules: 1 }, "A.+v": { granules: 2 } } }, { slopes: graded });
	await user.click(await screen.findByRole("button", { name: "Granule loss" }));
	await user.click(within(await screen.findByRole("group", { name: "granule loss" })).getByRole("button", { name: "3 bald" }));
	await waitFor(() => expect(kept.at(-1)?.wear).toEqual({ "A.-v": { granules: 1 }, "A.+v": { granules: 3 } }));
	await user.click(screen.getByRole("button", { name: "Take back" }));
	await waitFor(() => expect(kept.at(-1)?.wear).toEqual({ "A.-v": { granules: 1 }, "A.+v": {} }));
});

it("the slope that is judged by is the worst one, and trees are said of the slope that is looked at", async () => {
	const slopes = [slope("A.-v", "front slope"), slope("A.+v", "rear slope")];
	const { user, kept } = opened({ masses: [], setting: { under_trees: ["A.-v"] } }, { slopes });
	const tick = screen.getByRole<HTMLInputElement>("checkbox", { name: "Trees overhang the rear slope" });
	expect(tick.checked).toBe(false);
	await user.click(tick);
	await waitFor(() => expect(kept.at(-1)?.setting?.under_trees).toEqual(["A.-v", "A.+v"]));
});
