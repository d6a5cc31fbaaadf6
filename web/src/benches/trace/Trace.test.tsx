import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { Schemas } from "../../api/client";
import type { JobView } from "../../api/queries";
import { standing } from "../../parts/draft/keeper";
import { JOB, json, person, serve, show } from "../../testing";
import { Trace, type TracePage } from "./Trace";

type Kept = Schemas["Trace"];

const at = { room: "", part: "wall", wall: 0, mass: "", face: "front", along: "1 m", up: "0.1 m" };
const spot = (id: string, name: string) => ({ id, name, at, shows: "skirting", since: "" });
const kept = {
	spots: [spot("S1", "stair foot"), spot("S2", "pantry")],
	seen: [
		{ id: "W1", spot: "S1", at: "2026-11-02T09:00", state: "wet" },
		{ id: "W2", spot: "S2", at: "2026-11-03T09:00", state: "dry" },
	],
	tests: [{ id: "X1", kind: "hose", candidate: "c1", minutes: 20, spot: "S2", result: "dry", cleared_below: true }],
	answers: [],
} as unknown as Kept;

const next = {
	test: "hose",
	candidate: "c1",
	minutes: 25,
	runs_minutes: 20,
	gain_bits: 0.4,
	ladder: true,
	clear_first: ["c2"],
	if_wet: { chance: 0.3, leads: ["c1"], p: 0.8 },
	if_dry: { chance: 0.7, leads: [], p: 0.6 },
};
const gathered = (id: string, label: string) => ({ candidate: { id, label, kind: "wall-opening" }, found: "round", struck: "" });

function opened(trace: Kept, more: Parameters<typeof serve>[0] = {}) {
	let rev = 1;
	let now = trace;
	const traced = (id: string) => ({
		id,
		candidates: [],
		ranking: [],
		next: [next],
		doubts: [],
		stop: { now: false, because: "" },
		unlisted: 1,
		would_change: [],
	});
	const page = () =>
		({
			trace: now,
			rev,
			account: {
				spots: [],
				list: [gathered("c1", "Sill of W2"), gathered("c2", "Foot of the door")],
				result: { spots: (now.spots ?? []).map((s) => traced(s.id)) },
				ways: [],
				offered: [],
				untried: [],
				outlines: [],
				cautions: ["Never work on a ladder alone."],
			},
			drawn: [],
		}) as unknown as TracePage;
	const sent = serve({
		[`GET /jobs/${JOB}/trace`]: page,
		[`POST /jobs/${JOB}/trace/try`]: page,
		[`PUT /jobs/${JOB}/trace`]: (put) => {
			now = (put as { body: Kept }).body;
			rev += 1;
			return { id: JOB, rev, body: now };
		},
		...more,
	});
	show(<Trace />, {
		outlet: { job: { id: JOB, rev: 1, body: { name: "x", brief: { visited_on: "2026-11-18" } } } } as unknown as JobView,
	});
	return { saved: () => sent.filter((s) => s.to === `PUT /jobs/${JOB}/trace`).map((s) => (s.body as { body: Kept }).body) };
}

it("a name typed while the weather office is asked is still there when its record comes, and is kept with it", async () => {
	const user = person();
	let release: (r: Response) => void = () => undefined;
	const { saved } = opened(kept, {
		[`GET /jobs/${JOB}/trace/rain`]: () => new Promise<Response>((r) => (release = r)),
	});
	await user.click(await screen.findByRole("button", { name: /Ask the weather office/ }));
	await user.click(screen.getByText("Where the spot is"));
	const name = screen.getByRole<HTMLInputElement>("textbox", { name: "Called" });
	await user.type(name, " under the stair");
	release(
		json({
			words: "72 hours",
			source: "office",
			from: "2026-11-15T00:00",
			until: "2026-11-18T00:00",
			hours: [{ at: "x" }],
			holes: [],
		}),
	);
	await waitFor(() => expect(saved().length).toBeGreaterThan(0));
	expect(saved().at(-1)?.spots?.[0]?.name).toBe("stair foot under the stair");
	expect(saved().at(-1)?.rain?.source).toBe("office");
	expect(name.value).toBe("stair foot under the stair");
});

it("a sighting wants a day and an hour, and only its own spot's are shown, the newest first", async () => {
	const user = person();
	const { saved } = opened(kept);
	await user.click(await screen.findByText("Seen 1 time"));
	const when = screen.getByRole<HTMLInputElement>("textbox", { name: /^When/ });
	expect(when.value).toBe("2026-11-18 10:00");
	await user.clear(when);
	await user.type(when, "yesterday");
	expect(screen.getByText("Write day and hour as 2026-11-18 10:00.")).toBeTruthy();
	expect(screen.getByRole<HTMLButtonElement>("button", { name: "It was wet" }).disabled).toBe(true);
	await user.clear(when);
	await user.type(when, "2026-11-17 08:30");
	await user.click(screen.getByRole("button", { name: "It was dry" }));
	await waitFor(() => expect(saved().at(-1)?.seen).toHaveLength(3));
	expect(saved().at(-1)?.seen?.at(-1)).toEqual({ id: "W3", spot: "S1", at: "2026-11-17T08:30", state: "dry" });
	const list = within(screen.getByRole("list", { name: "Sightings" })).getAllByRole("listitem");
	expect(list.map((l) => l.textContent?.slice(0, 20))).toEqual(["2026-11-17 08:30 dry", "2026-11-02 09:00 wet"]);
});

it("a test says what to clear first and that it takes a ladder; its result is one key, at its candidate", async () => {
	const user = person();
	const { saved } = opened(kept);
	const list = await screen.findByRole("list", { name: "Next tests" });
	expect(list.textContent).toContain("takes a ladder");
	expect(list.textContent).toContain("First test dry or cover what lies below it: foot of the door");
	await user.click(within(list).getByRole("button", { name: "Start" }));
	const running = await screen.findByRole("group", { name: "Test on Sill of W2" });
	expect(running.textContent).toContain("never with the circuit near the spot on");
	expect(within(running).getByRole<HTMLInputElement>("checkbox", { name: /lies below/ }).checked).toBe(false);
	await user.keyboard("w");
	await waitFor(() => expect(saved().at(-1)?.tests).toHaveLength(2));
	expect(saved().at(-1)?.tests?.at(-1)).toMatchObject({
		id: "X2",
		spot: "S1",
		candidate: "c1",
		kind: "hose",
		result: "wet",
		cleared_below: false,
	});
});

it("the hose runs on while another bench is looked at: its clock, and what was cleared first, are there again", async () => {
	let now = Date.parse("2026-11-18T10:00:00Z");
	const clock = vi.spyOn(Date, "now").mockImplementation(() => now);
	const user = person();
	opened(kept);
	await user.click(within(await screen.findByRole("list", { name: "Next tests" })).getByRole("button", { name: "Start" }));
	await user.click(await screen.findByRole("checkbox", { name: /lies below/ }));
	cleanup();
	now += (17 * 60 + 5) * 1000;
	const { saved } = opened(kept);
	const running = await screen.findByRole("group", { name: "Test on Sill of W2" });
	expect(within(running).getByRole("timer").textContent).toBe("17:05");
	expect(standing()).toBe("typed");
	await user.click(within(running).getByRole("button", { name: "It stayed dry (D)" }));
	await waitFor(() => expect(saved().at(-1)?.tests).toHaveLength(2));
	expect(saved().at(-1)?.tests?.at(-1)).toMatchObject({ spot: "S1", result: "dry", minutes: 17, cleared_below: true });
	// It is over: the next look finds no clock.
	cleanup();
	opened(kept);
	expect(await screen.findByRole("list", { name: "Next tests" })).toBeTruthy();
	clock.mockRestore();
});

it("a spot goes with what was seen and tried at it, and leaves the others theirs", async () => {
	const user = person();
	const { saved } = opened(kept);
	await user.click(await screen.findByRole("tab", { name: "pantry" }));
	await user.click(screen.getByText("Where the spot is"));
	await user.click(screen.getByRole("button", { name: /Take the spot out/ }));
	await waitFor(() =>
		expect(
			saved()
				.at(-1)
				?.spots?.map((s) => s.id),
		).toEqual(["S1"]),
	);
	expect(
		saved()
			.at(-1)
			?.seen?.map((s) => s.id),
	).toEqual(["W1"]);
	expect(saved().at(-1)?.tests).toEqual([]);
	expect(screen.getByRole("list", { name: "Cautions" }).textContent).toContain("ladder");
});
