import { screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, it, vi } from "vitest";
import { JOB, json, person, serve, show } from "../../testing";
import { Report } from "./Report";

const finding = (number: number, title: string, more: object = {}) => ({
	note_id: `n${number}`,
	number,
	title,
	place: "Rear, ground",
	section: "findings",
	urgency: "before-next-rain",
	urgency_words: "Before next rain",
	ticks: 4,
	hazard: false,
	measures: [],
	remarks: [],
	in_report: true,
	suggestion: { step: "before-next-rain", hazard: false, reasons: [] },
	...more,
});
const view = (findings: object[], closed = false) => ({
	job: { id: JOB, rev: 3, body: { name: "Mill", brief: {}, closed_at: closed ? "2026-11-18T12:00:00Z" : null } },
	version: "7.1",
	coverage: { sentence: "2 of 25 places seen.", cells: [] },
	closing: { closed, gap: { sentence: "", places: [] } },
	findings,
	notes: [],
	pictures: [],
});
const front = {
	asked: "Where does it come in?",
	answer: ["Through the valley."],
	first: [],
	unseen: { sentence: "All was seen.", places: [] },
};
const leaving = { front, trades: [], missing: [], said: [], links: [], letter: "", subject: "", due: null };
const rows = () => screen.queryAllByRole("listitem").map((r) => r.textContent);
const LEAVING = `GET /jobs/${JOB}/leaving`;

beforeEach(() => {
	class Sight {
		observe() {}
		disconnect() {}
	}
	vi.stubGlobal("IntersectionObserver", Sight);
});

function opened(findings: object[], answers: Parameters<typeof serve>[0] = {}, closed = false) {
	const sent = serve({
		[`GET /jobs/${JOB}/report`]: () => ({ pages: 0, version: "v", warnings: [] }),
		[LEAVING]: () => leaving,
		...answers,
	});
	show(<Report />, { outlet: view(findings, closed) });
	return sent;
}

it("no finding can be pressed before what stands over it is there: it would move away under the finger", async () => {
	let answer: ((leaving: object) => void) | undefined;
	opened([finding(1, "Paving falls to wall"), finding(2, "Blind corner traps water")], {
		[LEAVING]: () =>
			new Promise((done) => {
				answer = done;
			}),
	});
	await screen.findByRole("heading", { name: "Report" });
	await waitFor(() => expect(answer).toBeDefined());
	expect(screen.queryByText("Blind corner traps water")).toBeNull();
	answer?.(leaving);
	expect(await screen.findByText("Through the valley.")).toBeTruthy();
	expect(screen.getByText("Blind corner traps water")).toBeTruthy();
});

it("where the first page cannot be had the findings are there all the same, with the reason and a way to ask again", async () => {
	let reached = false;
	opened([finding(1, "Paving falls to wall")], {
		[LEAVING]: () => (reached ? leaving : json({ code: "internal", message: "The journal could not be read." }, 500)),
	});
	expect(await screen.findByText("Paving falls to wall")).toBeTruthy();
	expect((await screen.findByRole("alert")).textContent).toContain("The journal could not be read.");
	reached = true;
	await person().click(screen.getByRole("button", { name: "Ask again" }));
	expect(await screen.findByText("Through the valley.")).toBeTruthy();
	expect(screen.queryByRole("alert")).toBeNull();
	// The other parts need it whole.
	await person().click(screen.getByRole("tab", { name: "Before it goes out" }));
	expect(screen.queryByRole("alert")).toBeNull();
});

it("findings stand under their steps, soonest first, and each in one list", async () => {
	const watch = { urgency: "watch", urgency_words: "Watch", ticks: 1 };
	opened([
		finding(3, "White deposit", watch),
		finding(1, "Box open", { urgency: "now", urgency_words: "Now", ticks: 5, hazard: true }),
		finding(2, "Debris dam"),
		finding(4, "Kick-out fitted", { section: "good" }),
		finding(5, "Loose rail", { section: "side" }),
		finding(6, "Attic locked", { section: "limits" }),
	]);
	await screen.findByText("Box open");
	const regions = screen.getAllByRole("region").filter((r) => within(r).queryAllByRole("listitem").length > 0);
	const told = regions.map((r) => [r.getAttribute("aria-label"), within(r).getAllByRole("listitem").length]);
	expect(told).toEqual([
		["Now", 1],
		["Before next rain", 1],
		["Watch", 1],
		["Done right", 1],
		["For other trades", 1],
		["What could not be seen", 1],
	]);
	expect(rows()[0]).toContain("Hazard");
});

it("what was set by hand says why and what was suggested; otherwise it says what moved it", async () => {
	const moved = {
		step: "now",
		hazard: false,
		reasons: [
			{ text: "Starts at “This season”.", effect: "start", step: "this-season" },
			{ text: "Water is confirmed active.", effect: "raise", step: "now" },
		],
	};
	opened([
		finding(1, "Blind corner", { by_hand: "drain is ordered" }),
		finding(2, "Torn boot", { suggestion: moved }),
		finding(3, "Small crack", { in_report: false }),
	]);
	await screen.findByText("Blind corner");
	const [byHand, raised, left] = rows();
	expect(byHand).toContain("Set by hand: drain is ordered (suggested: before next rain)");
	expect(raised).toContain("Water is confirmed active.");
	expect(raised).not.toContain("Starts at");
	expect(left).toContain("Left out of the report");
});

it("a job without findings says so, and a closed visit can be opened again as it is", async () => {
	const sent = opened([], { [`PUT /jobs/${JOB}`]: (put) => ({ id: JOB, rev: 4, body: (put as { body: object }).body }) }, true);
	expect(await screen.findByText(/No findings yet/)).toBeTruthy();
	expect(screen.queryByRole("button", { name: "Close the visit" })).toBeNull();
	await person().click(screen.getByRole("button", { name: "Open the visit again" }));
	await waitFor(() => expect(sent.filter((s) => s.to.startsWith("PUT"))).toHaveLength(1));
	expect(sent.at(-1)?.body).toEqual({ base: 3, body: { name: "Mill", brief: {}, closed_at: null } });
});
