import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, json, type Person, person, show } from "../../testing";
import { Storm } from "./Storm";
import { server, slope, square, view } from "./testing";

const hit = (id: string, more = {}) => ({ id, x: 0.5, y: 0.5, size: "", kind: "bruise", unsure: false, signs: {}, ...more });
const SIGNS = [
	{ id: "rim", words: "Its rim", states: ["soft", "sharp"], state_words: ["soft to the thumb", "sharp"] },
	{ id: "age", words: "Its colour", states: ["bright"], state_words: ["bright"] },
];
type Of = Parameters<typeof server>[1];
function opened(start: object, of: Of = {}, outlet: object = {}) {
	const kept = server(start, { page: { signs: SIGNS }, ...of });
	show(<Storm />, { outlet: { ...view, ...outlet } });
	return { user: person(), kept };
}
const first = (kept: ReturnType<typeof server>) => kept().squares?.[0];
const choose = async (user: Person, from: HTMLElement, name: string) => {
	await user.click(from);
	await user.click(await screen.findByRole("option", { name }));
};

it("a square is moved from where it lies, with a reason, and put back where its seed drew it", async () => {
	const places = {
		account: () => ({ squares: [{ id: "Q1", marks: [], corners: [], words: "", from_left_m: 1.524, from_low_m: 0.61 }] }),
	};
	const { user, kept } = opened({ squares: [square("Q1")] }, places, { units: "us" });
	await user.click(await screen.findByRole("button", { name: "Move it, with a reason" }));
	const why = await screen.findByRole("textbox", { name: "Why it was moved" });
	expect(screen.getByRole<HTMLInputElement>("textbox", { name: "From the left end" }).value).toBe("5 ft");
	// Nothing is kept before it has a reason: the place alone would be refused.
	expect(first(kept)?.moved).toBeNull();
	await user.type(why, "a vent stands there");
	await user.tab();
	await waitFor(() => expect(first(kept)?.moved).toMatchObject({ from_left: "5 ft", why: "a vent stands there" }));
	await user.click(screen.getByRole("button", { name: "Put it back where it was drawn" }));
	await waitFor(() => expect(first(kept)?.moved).toBeNull());
	expect(first(kept)?.seed).toBe(7);
});

it("hits without places make the square counted, and no hit at all does so by the tick", async () => {
	const { user, kept } = opened({ squares: [square("Q1"), square("Q2")] });
	const unplaced = await screen.findByRole("textbox", { name: "Hits counted without their places" });
	await user.clear(unplaced);
	await user.type(unplaced, "8");
	await user.tab();
	await waitFor(() => expect(first(kept)).toMatchObject({ unplaced: 8, counted: true }));
	await user.click(screen.getByRole("button", { name: /^Q2/ }));
	await user.click(await screen.findByRole("checkbox", { name: "Counted to the end" }));
	await waitFor(() => expect(kept().squares?.[1]).toMatchObject({ unplaced: 0, counted: true, hits: [] }));
});

it("a mark is told apart by its signs; with one it is no longer asked whether it is sure, without it is asked again", async () => {
	const { user, kept } = opened({ squares: [square("Q1", { hits: [hit("h1"), hit("h2")] })] });
	await user.click(within(await screen.findByRole("group", { name: "Marks" })).getByRole("button", { name: "h2" }));
	const mark = within(await screen.findByRole("group", { name: "Mark h2" }));
	await user.click(mark.getByRole("checkbox", { name: "Not sure" }));
	await waitFor(() => expect(first(kept)?.hits?.[1]?.unsure).toBe(true));
	await choose(user, mark.getByRole("button", { name: /Its rim/ }), "Soft to the thumb");
	await waitFor(() => expect(first(kept)?.hits?.[1]?.signs).toEqual({ rim: "soft" }));
	expect(mark.queryByRole("checkbox", { name: "Not sure" })).toBeNull();
	await choose(user, mark.getByRole("button", { name: /Its rim/ }), "Not looked at");
	await waitFor(() => expect(first(kept)?.hits?.[1]?.signs).toEqual({}));
	expect(first(kept)?.hits?.[0]).toEqual(hit("h1"));
});

it("what is no hail has no signs to look at, and a mark that is taken out leaves the other", async () => {
	const { user, kept } = opened({ squares: [square("Q1", { hits: [hit("h1"), hit("h2")] })] });
	await user.click(within(await screen.findByRole("group", { name: "Marks" })).getByRole("button", { name: "h1" }));
	const mark = within(await screen.findByRole("group", { name: "Mark h1" }));
	await choose(user, mark.getByRole("button", { name: /What it is/ }), "No hail, told by eye");
	await waitFor(() => expect(first(kept)?.hits?.[0]?.kind).toBe("other"));
	expect(mark.queryByRole("button", { name: /Its rim/ })).toBeNull();
	await user.click(mark.getByRole("button", { name: "Take the mark out" }));
	await waitFor(() => expect(first(kept)?.hits?.map((h) => h.id)).toEqual(["h2"]));
});

it("a size that is none stands at its mark, as it was typed", async () => {
	const refused = { code: "invalid", message: "Type a size such as 22 mm.", field: "squares.Q1.hits.h1.size" };
	const { user, kept } = opened(
		{ squares: [square("Q1", { hits: [hit("h1")] })] },
		{ more: { [`PUT /jobs/${JOB}/storm`]: () => json(refused, 422) } },
	);
	await user.click(within(await screen.findByRole("group", { name: "Marks" })).getByRole("button", { name: "h1" }));
	const mark = within(await screen.findByRole("group", { name: "Mark h1" }));
	const size = mark.getByRole<HTMLInputElement>("textbox", { name: "Size" });
	await user.type(size, "a pea");
	await user.tab();
	expect(await mark.findByText("Type a size such as 22 mm.")).toBeTruthy();
	expect(size.value).toBe("a pea");
	expect(first(kept)?.hits?.[0]?.size).toBe("");
});

const pictures = [
	{ id: "p1", body: { name: "IMG_1.png", caption: "rear, from the pole", marks: [{}] } },
	{ id: "p2", body: { name: "IMG_2.png", caption: "", marks: [] } },
];

it("the marks of a picture become hits beside those that were tapped; a picture without marks is not offered", async () => {
	const taken = {
		hits: [hit("x", { x: 0.2, y: 0.8, picture: "p1" })],
		words: "1 mark; the picture's edge is taken for the square's.",
	};
	const { user, kept } = opened(
		{ squares: [square("Q1", { hits: [hit("h1")] })] },
		{ more: { [`GET /jobs/${JOB}/storm/squares/Q1/marks/p1`]: () => taken } },
		{ pictures },
	);
	const take = await screen.findByRole<HTMLButtonElement>("button", { name: "Take its marks as hits" });
	expect(take.disabled).toBe(true);
	await user.click(screen.getByRole("button", { name: /A marked picture/ }));
	expect((await screen.findAllByRole("option")).map((o) => o.textContent)).toEqual(["rear, from the pole"]);
	await user.click(screen.getByRole("option", { name: "rear, from the pole" }));
	await user.click(take);
	await waitFor(() => expect(first(kept)?.hits).toHaveLength(2));
	expect(first(kept)?.hits?.map((h) => [h.id, h.x, h.picture])).toEqual([
		["h1", 0.5, undefined],
		["h2", 0.2, "p1"],
	]);
	expect(first(kept)?.counted).toBe(true);
	expect(await screen.findByText(taken.words)).toBeTruthy();
});

it("a picture that gives no mark says so and counts nothing", async () => {
	const none = { hits: [], words: "None of its marks lies in the square." };
	const { user, kept } = opened(
		{ squares: [square("Q1")] },
		{ more: { [`GET /jobs/${JOB}/storm/squares/Q1/marks/p1`]: () => none } },
		{ pictures },
	);
	await choose(user, await screen.findByRole("button", { name: /A marked picture/ }), "rear, from the pole");
	await user.click(screen.getByRole("button", { name: "Take its marks as hits" }));
	expect(await screen.findByText(none.words)).toBeTruthy();
	expect(first(kept)).toEqual(square("Q1"));
});

it("how a slope was looked at is kept with why, and the danger stands where it was chosen", async () => {
	const against = "Too steep to walk: look from the eave.";
	const slopes = [slope("A.+v", "rear slope", { against }), slope("A.-v", "front slope")];
	const { user, kept } = opened({ seen: [{ id: "A.-v", how: "drone", why: "" }] }, { account: () => ({ slopes }) });
	await user.click(await screen.findByText("How each slope was looked at"));
	expect(screen.getByText(against)).toBeTruthy();
	// The first chooser of that name is where the next square is drawn.
	await choose(user, screen.getAllByRole("button", { name: /rear slope/ })[1] as HTMLElement, "Field glass");
	await waitFor(() => expect(kept().seen).toHaveLength(2));
	await user.type(screen.getAllByRole("textbox", { name: "Why so" })[0] as HTMLElement, "wet");
	await user.tab();
	await waitFor(() => expect(kept().seen?.[1]).toEqual({ id: "A.+v", how: "glass", why: "wet" }));
	expect(kept().seen?.[0]).toEqual({ id: "A.-v", how: "drone", why: "" });
});
