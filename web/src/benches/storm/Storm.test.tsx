import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, person, show } from "../../testing";
import { Storm, type Visit } from "./Storm";
import { server, square, view } from "./testing";

it("a square is counted by keys: a hit, a doubtful one, and what is no hail", async () => {
	const user = person();
	const kept = server({ squares: [square("Q1")] });
	show(<Storm />, { outlet: view });
	(await screen.findByRole("application")).focus();
	await user.keyboard("{ArrowRight}{ArrowUp}{Enter}{ArrowLeft}d{ArrowDown}n");
	await waitFor(() => expect(kept().squares?.[0]?.hits?.length).toBe(3));
	const hits = kept().squares?.[0]?.hits ?? [];
	expect(hits.map((h) => [h.x, h.y, h.kind, h.unsure])).toEqual([
		[0.55, 0.55, "bruise", false],
		[0.5, 0.55, "bruise", true],
		[0.5, 0.5, "other", false],
	]);
	expect(kept().squares?.[0]?.counted).toBe(true);
	expect(new Set(hits.map((h) => h.id)).size).toBe(3);
});

it("a square that is drawn has a seed of its own and nothing counted", async () => {
	const user = person();
	const kept = server({ squares: [square("Q1", { wide: "2 m", high: "1 m" })] });
	show(<Storm />, { outlet: view });
	await user.click(await screen.findByRole("button", { name: "Draw a square" }));
	await waitFor(() => expect(kept().squares?.length).toBe(2));
	expect(kept().squares?.[1]).toMatchObject({ id: "Q2", slope: "A.+v", wide: "2 m", high: "1 m", counted: false, hits: [] });
	expect(kept().squares?.[1]?.seed).not.toBe(7);
});

it("a count told on the round is offered for the square that waits, and goes nowhere unasked", async () => {
	const user = person();
	const told = {
		note_id: "n",
		text: "eight in the square, biggest an inch",
		said: { hits: 8, largest: "an inch" },
		square: "Q2",
	};
	const lost = { note_id: "m", text: "four in the square", said: { hits: 4, largest: "" }, square: null };
	const waits = (s: Visit) => (s.squares?.[1]?.counted ? [lost] : [told, lost]);
	const kept = server(
		{ squares: [square("Q1", { counted: true, unplaced: 2 }), square("Q2")] },
		{ account: (s) => ({ said: waits(s) }) },
	);
	show(<Storm />, { outlet: view });
	const list = await screen.findByRole("list", { name: "Counts told on the round" });
	expect(kept().squares?.[1]?.counted).toBe(false);
	expect(within(list).getByText(/no square on that side waits/)).toBeTruthy();
	await user.click(within(list).getByRole("button", { name: "Count it in Q2" }));
	await waitFor(() => expect(kept().squares?.[1]).toMatchObject({ counted: true, unplaced: 8, largest: "an inch" }));
	expect(kept().squares?.[0]).toMatchObject({ counted: true, unplaced: 2 });
	await waitFor(() => expect(screen.queryByRole("button", { name: "Count it in Q2" })).toBeNull());
});

it("what is typed while the weather office is asked stays, and a storm of a day that is there is not doubled", async () => {
	const user = person();
	const storm = (on: string, hail_mm: number) => ({ on, hail_mm, gust_m_s: null, from_deg: null, km: 2 });
	let tell = (_: unknown) => {};
	const kept = server(
		{ events: [{ id: "E1", ...storm("2026-04-02", 12) }], squares: [square("Q1")] },
		{ more: { [`GET /jobs/${JOB}/storm/events`]: () => new Promise((r) => (tell = r)) } },
	);
	show(<Storm />, { outlet: view });
	await user.click(await screen.findByRole("tab", { name: "Which storm" }));
	await user.click(await screen.findByRole("button", { name: /^Ask the weather office/ }));
	await user.click(screen.getByText(/^Dated pictures and statements/));
	await user.click(screen.getByRole("button", { name: "Add a picture or statement" }));
	await user.type(await screen.findByRole("textbox", { name: "Who says so" }), "the neighbour");
	tell({ storms: [storm("2026-04-02", 40), storm("2026-06-11", 25)], source: "Simulated office", words: "Two storms." });
	await waitFor(() => expect(kept().events?.length).toBe(2));
	expect(kept().events?.map((e) => [e.id, e.on, e.hail_mm])).toEqual([
		["E1", "2026-04-02", 12],
		["E2", "2026-06-11", 25],
	]);
	expect(kept().events_source).toBe("Simulated office");
	expect(kept().dated?.[0]?.source).toBe("the neighbour");
	expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Who says so" }).value).toBe("the neighbour");
});

it("an office that cannot be reached changes nothing and says so", async () => {
	const user = person();
	const kept = server({ events: [], squares: [square("Q1")] });
	show(<Storm />, { outlet: view });
	await user.click(await screen.findByRole("tab", { name: "Which storm" }));
	const ask = await screen.findByRole("button", { name: /^Ask the weather office/ });
	await user.click(ask);
	await waitFor(() => expect(ask.textContent).toMatch(/^Ask the weather office/));
	expect((await screen.findAllByText(/not reached|server/i)).length).toBeGreaterThan(0);
	expect(kept().events).toEqual([]);
});
