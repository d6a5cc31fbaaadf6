import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobView, Practice as Kept } from "../../api/queries";
import { JOB, json, person, serve, show } from "../../testing";
import { Practice } from "./Practice";

const P = "0190aaaa-0000-7000-8000-0000000000b1";
const school = (id: string, name: string) => ({ id, name, reason: `because of ${id}` });
const points = [
	{
		key: "gutter-fall",
		what: "The least fall of a gutter",
		unit: "ratio",
		school: [school("book", "By the book"), school("eye", "By eye")],
	},
	{ key: "tone", what: "How it is said", unit: "none", school: [school("plain", "Plainly"), school("kind", "Kindly")] },
];

function opened(practice: Partial<Kept>, more: Parameters<typeof serve>[0] = {}) {
	let kept = { name: "Own practice", choice: {}, own_word: [], units: "metric", ...practice } as unknown as Kept;
	let rev = 3;
	const sent = serve({
		"GET /practices": () => ({ practices: [{ id: P, rev, body: kept }], points }),
		"GET /choices": () => ({ units: [{ value: "metric", name: "Metres" }] }),
		[`POST /jobs/${JOB}/practice-tried`]: () => [{ note_id: "n1", title: "Gutter G1", before: "watch", after: "mend soon" }],
		[`PUT /practices/${P}`]: (put) => {
			kept = (put as { body: Kept }).body;
			rev += 1;
			return { id: P, rev, body: kept };
		},
		...more,
	});
	const job = { id: JOB, rev: 7, body: { name: "x", brief: { practice: kept.name } } };
	show(<Practice />, { outlet: { job, practice: kept } as unknown as JobView });
	return {
		puts: () => sent.filter((s) => s.to.startsWith("PUT")).map((s) => s.body as { base: number | null; body: Kept }),
	};
}

const point = (name: string) => screen.findByRole("region", { name });

it("another school says what it would change before it is kept; the first school is no choice of its own", async () => {
	const user = person();
	const { puts } = opened({});
	const aside = await screen.findByRole("complementary", { name: "What would change" });
	expect(aside.textContent).toContain("Choose another school");
	const fall = within(await point("The least fall of a gutter"));
	await user.click(fall.getByRole("radio", { name: /By eye/ }));
	await waitFor(() => expect(aside.textContent).toContain("mend soon"));
	expect(within(aside).getByText("watch").tagName).toBe("DEL");
	expect(puts()).toEqual([]);
	// Back to the first: nothing is changed, and there is nothing to keep.
	await user.click(fall.getByRole("radio", { name: /By the book/ }));
	await waitFor(() => expect(aside.textContent).toContain("Choose another school"));
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "Keep the practice" }).disabled).toBe(true);
});

it("an own figure is kept with its reason under the revision it was made from; a point without a unit has none", async () => {
	const user = person();
	const { puts } = opened({
		choice: { tone: { school: "kind", own: null, reason: "" } } as unknown as NonNullable<Kept["choice"]>,
	});
	const tone = within(await point("How it is said"));
	expect(tone.queryByRole("radio", { name: "Own figure" })).toBeNull();
	expect(tone.getByRole<HTMLInputElement>("radio", { name: /Kindly/ }).checked).toBe(true);
	const fall = within(await point("The least fall of a gutter"));
	await user.click(fall.getByRole("radio", { name: "Own figure" }));
	await user.type(fall.getByRole("textbox", { name: "Figure with its unit" }), "1:200");
	await user.type(fall.getByRole("textbox", { name: "Why" }), "leaves here");
	await user.click(screen.getByRole("button", { name: "Keep the practice" }));
	await waitFor(() => expect(puts()).toHaveLength(1));
	expect(puts()[0]?.base).toBe(3);
	expect(puts()[0]?.body.choice?.["gutter-fall"]).toEqual({ own: "1:200", reason: "leaves here" });
	expect(puts()[0]?.body.choice?.tone).toMatchObject({ school: "kind" });
});

it("a figure that is refused is said beside the button, and stays as it was typed", async () => {
	const user = person();
	opened(
		{},
		{ [`PUT /practices/${P}`]: () => json({ code: "invalid", message: "“steep” is no fall. Type one such as 1:200." }, 422) },
	);
	const fall = within(await point("The least fall of a gutter"));
	await user.click(fall.getByRole("radio", { name: "Own figure" }));
	const figure = fall.getByRole<HTMLInputElement>("textbox", { name: "Figure with its unit" });
	await user.type(figure, "steep");
	await user.click(screen.getByRole("button", { name: "Keep the practice" }));
	expect((await screen.findAllByText("“steep” is no fall. Type one such as 1:200.")).length).toBeGreaterThan(0);
	expect(figure.value).toBe("steep");
	await user.click(screen.getByRole("button", { name: "Leave it as it was" }));
	await waitFor(() => expect(fall.queryByRole("textbox", { name: "Figure with its unit" })).toBeNull());
});

it("a word of one's own is forgotten alone", async () => {
	const user = person();
	const { puts } = opened({
		own_word: [
			{ said: "rone", means: "gutter" },
			{ said: "skew", means: "parapet" },
		] as unknown as NonNullable<Kept["own_word"]>,
	});
	const words = within(await screen.findByRole("region", { name: "Own words" }));
	const rows = words.getAllByRole("listitem");
	expect(rows[0]?.textContent).toContain("“rone” is read as gutter");
	await user.click(within(rows[0] as HTMLElement).getByRole("button", { name: "Forget" }));
	await user.click(screen.getByRole("button", { name: "Keep the practice" }));
	await waitFor(() => expect(puts()).toHaveLength(1));
	expect(puts()[0]?.body.own_word?.map((w) => w.said)).toEqual(["skew"]);
});
