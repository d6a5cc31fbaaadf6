import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, json, person, show } from "../../testing";
import { Storm, type Visit } from "./Storm";
import { server, slope, view } from "./testing";

const SLOPES = [slope("A.+v", "rear slope"), slope("A.-v", "front slope")];
const row = (id: string, part: string, more = {}) => ({
	id,
	slope: "A.-v",
	part,
	units: 40,
	creased: 3,
	lifted: 0,
	missing: 0,
	unsealed: 0,
	from_deg: null,
	...more,
});
const tried = (id: string, of: number, failed: number) => ({ id, slope: "A.+v", tried: of, failed });

async function opened(start: object, account: (s: Visit) => object = () => ({}), more = {}) {
	const user = person();
	const kept = server(start, { account: (s) => ({ slopes: SLOPES, ...account(s) }), more });
	show(<Storm />, { outlet: view });
	await user.click(await screen.findByRole("tab", { name: "Wind and mending" }));
	return { user, kept };
}
const group = async (name: string) => within(await screen.findByRole("group", { name }));

it("a part of a slope begins on the slope of the last row, at the first part that is not there", async () => {
	const { user, kept } = await opened({ wind: [row("W1", "corner"), row("W3", "edge")] });
	await user.click(await screen.findByRole("button", { name: "Add a part of a slope" }));
	await waitFor(() => expect(kept().wind).toHaveLength(3));
	expect(kept().wind?.[2]).toMatchObject({ id: "W4", slope: "A.-v", part: "ridge", units: 1, creased: 0, from_deg: null });
	expect(kept().wind?.[0]).toEqual(row("W1", "corner"));
});

it("a count that is typed goes to its own row, and an emptied one is none", async () => {
	const { user, kept } = await opened({ wind: [row("W1", "corner"), row("W2", "edge")] });
	const second = await group("Wind W2");
	const gone = second.getByRole("textbox", { name: "Gone" });
	await user.clear(gone);
	await user.type(gone, "5");
	const creased = second.getByRole("textbox", { name: "Creased" });
	await user.clear(creased);
	await user.tab();
	await waitFor(() => expect(kept().wind?.[1]).toMatchObject({ missing: 5, creased: 0, units: 40 }));
	expect(kept().wind?.[0]).toEqual(row("W1", "corner"));
});

it("each row says its own share, in whatever order the server tells them, and none of a row it tells nothing of", async () => {
	const row_words = [
		{ of: "seals", id: "S2", words: "Open: 9 of 9 (66 to 100 %)" },
		{ of: "wind", id: "W2", words: "Harmed by wind: 0 of 40 (0 to 9 %)" },
		{ of: "seals", id: "S1", words: "Open: 1 of 9 (0 to 48 %)" },
	];
	await opened(
		{ wind: [row("W1", "corner"), row("W2", "edge")], seals: [tried("S1", 9, 1), tried("S2", 9, 9)], lifts: [tried("L1", 5, 0)] },
		() => ({ row_words, mends: [{ id: "L1", words: "Rear slope: it can be mended." }] }),
	);
	expect((await group("Wind W2")).getByText("Harmed by wind: 0 of 40 (0 to 9 %)")).toBeTruthy();
	expect((await group("Wind W1")).queryByText(/Harmed/)).toBeNull();
	const seals = await group("Seals tried by hand");
	expect(seals.getAllByText(/^Open:/).map((e) => e.textContent)).toEqual([
		"Open: 1 of 9 (0 to 48 %)",
		"Open: 9 of 9 (66 to 100 %)",
	]);
	expect((await group("Units lifted to try a mend")).getByText("Rear slope: it can be mended.")).toBeTruthy();
});

it("how wide corners and edges are is said as the server says it, or not at all", async () => {
	const zone = "Corners and edges are 1.1 m wide here.";
	await opened({}, () => ({ zone_words: zone }));
	expect(await screen.findByText(zone, { exact: false })).toBeTruthy();
});

it("what cannot be stands at its row, with what was typed, and nothing is kept", async () => {
	const refused = { code: "invalid", message: "60 of 40 units cannot be.", field: "wind.W2.units" };
	const { user, kept } = await opened({ wind: [row("W1", "corner"), row("W2", "edge")] }, undefined, {
		[`PUT /jobs/${JOB}/storm`]: () => json(refused, 422),
	});
	const second = await group("Wind W2");
	const lifted = second.getByRole<HTMLInputElement>("textbox", { name: "Lifted" });
	await user.clear(lifted);
	await user.type(lifted, "57");
	await user.tab();
	expect(await second.findByText("60 of 40 units cannot be.")).toBeTruthy();
	expect(lifted.value).toBe("57");
	expect((await group("Wind W1")).queryByText("60 of 40 units cannot be.")).toBeNull();
	expect(kept().wind?.[1]).toEqual(row("W2", "edge"));
});

it("what fell, what is not from this storm and what is at hand are kept each in its list", async () => {
	const { user, kept } = await opened({ opened: [{ id: "O1", what: "ice", place: "porch", opened: "", covered: false }] });
	await user.click(await screen.findByRole("button", { name: "Add what fell" }));
	const second = await group("Fell O2");
	await user.type(second.getByRole("textbox", { name: "What it opened" }), "a hole by the stack");
	await user.click(second.getByRole("checkbox", { name: "Covered for now" }));
	await user.click(screen.getByRole("button", { name: "Add what is not from it" }));
	await user.type((await group("Not this storm N1")).getByRole("textbox", { name: "Where it is" }), "by the ladder");
	await user.click(screen.getByRole("checkbox", { name: "Spare or matching material is at hand" }));
	await waitFor(() => expect(kept().not_this?.[0]).toMatchObject({ what: "foot", place: "by the ladder", count: 0 }));
	await waitFor(() => expect(kept().material_at_hand).toBe(true));
	expect(kept().opened).toEqual([
		{ id: "O1", what: "ice", place: "porch", opened: "", covered: false },
		{ id: "O2", what: "limb", place: "on the roof", opened: "a hole by the stack", covered: true },
	]);
	await user.click((await group("Fell O1")).getByRole("button", { name: "Take out" }));
	await waitFor(() => expect(kept().opened?.map((o) => o.id)).toEqual(["O2"]));
});

it("a trial that is taken out leaves the other with its own figures", async () => {
	const account = (s: Visit) => ({
		row_words: (s.seals ?? []).map((t) => ({ of: "seals", id: t.id, words: `Open: ${t.failed} of ${t.tried}` })),
	});
	const { user, kept } = await opened({ seals: [tried("S1", 9, 1), tried("S2", 4, 4)] }, account);
	const seals = await group("Seals tried by hand");
	await user.click(seals.getAllByRole("button", { name: "Take out" })[0] as HTMLElement);
	await waitFor(() => expect(kept().seals).toEqual([tried("S2", 4, 4)]));
	expect(seals.getAllByText(/^Open:/).map((e) => e.textContent)).toEqual(["Open: 4 of 4"]);
	await user.click(seals.getByRole("button", { name: "Add a trial" }));
	await waitFor(() => expect(kept().seals?.[1]).toEqual({ id: "S3", slope: "A.+v", tried: 10, failed: 0 }));
});
