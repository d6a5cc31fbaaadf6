import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, json, type Person, person, serve, show } from "../../testing";
import { Ground } from "./Ground";
import type { GroundPage, GroundRecord } from "./kinds";

const spot = (id: string, height: string) => ({
	id,
	at: { face: "front", mass: "A", along: "1 m", out: "1 m" },
	height,
	top: "soil",
	how: "typed",
});

/** What the server would say of a ground; only what the page needs of it. */
function page(ground: GroundRecord, rev: number): GroundPage {
	const account = {
		readings: (ground.spots ?? []).map((s) => ({ id: s.id, z_m: -0.1, at: [1, 1] })),
		faces: [{ mass: "A", face: "front", right: true, sentence: "The front falls away." }],
		doubts: [],
		ponds: [{ id: "A", place: "by the door", depth_m: 0.05, volume_m3: 0.2, catchment_m2: 12, way_out: "It runs to the rear." }],
		transects: [],
		nearby: [],
		lines: [],
		book: [],
		book_says: "",
	};
	return { ground, rev, account, plan: "<svg/>", profiles: [], storms: [10], point: null } as unknown as GroundPage;
}

let kept: GroundRecord;
function opened(more: Parameters<typeof serve>[0] = {}) {
	let rev = 1;
	const path = `/jobs/${JOB}/ground`;
	const sent = serve({
		[`GET ${path}`]: () => page(kept, rev),
		[`POST ${path}/try`]: (b) => ({
			page: page((b as { ground: GroundRecord }).ground, rev),
			sentence: "Nothing stands at the wall any more.",
			rows: [{ what: "deepest at the wall", before: 60, after: 0, unit: "mm" }],
			changes: [],
		}),
		[`PUT ${path}`]: (b) => {
			kept = (b as { body: GroundRecord }).body;
			rev += 1;
			return { id: JOB, rev, body: kept };
		},
		[`GET /jobs/${JOB}/rainwater`]: () => ({ rainwater: { gutters: [] } }),
		[`PUT /jobs/${JOB}/notes/*`]: (b) => ({ id: "n", rev: 1, body: (b as { body: object }).body }),
		...more,
	});
	show(<Ground />, { outlet: { job: { id: JOB }, roof_rev: 1, rainwater_rev: 1, practice_version: 1, notes: [], pictures: [] } });
	return sent;
}
const height = () => screen.findByRole<HTMLInputElement>("textbox", { name: "Height above the floor" });
const begin = async (user: Person) => {
	kept = { spots: [spot("P1", "-100 mm"), spot("P2", "-110 mm"), spot("P3", "-90 mm")] } as unknown as GroundRecord;
	opened();
	await user.click(await screen.findByRole("button", { name: "Try a change" }));
	await user.click(screen.getByRole("button", { name: "P2" }));
	await user.clear(await height());
	await user.type(await height(), "-200 mm");
	await user.tab();
};

it("what is tried stays while another bench is looked at, and nothing of it is kept", async () => {
	const user = person();
	await begin(user);
	expect(await screen.findByText("Nothing stands at the wall any more.")).toBeTruthy();
	cleanup();
	const sent = opened();
	expect(await screen.findByRole("region", { name: "A change that is tried" })).toBeTruthy();
	await user.click(screen.getByRole("button", { name: "P2" }));
	expect((await height()).value).toBe("-200 mm");
	expect(kept.spots?.[1]?.height).toBe("-110 mm");
	await user.click(screen.getByRole("button", { name: "Discard" }));
	await waitFor(async () => expect((await height()).value).toBe("-110 mm"));
	expect(sent.filter((s) => s.to.startsWith("PUT"))).toEqual([]);
	cleanup();
	opened();
	expect(await screen.findByRole("button", { name: "Try a change" })).toBeTruthy();
});

it("the ground is like this: what was tried is kept as read, and the other readings stay", async () => {
	const user = person();
	await begin(user);
	await user.click(await screen.findByRole("button", { name: "The ground is like this: keep as read" }));
	await waitFor(() => expect(kept.spots?.map((s) => s.height)).toEqual(["-100 mm", "-200 mm", "-90 mm"]));
	expect(screen.getByRole("button", { name: "Try a change" })).toBeTruthy();
});

it("a recommendation that could not be kept leaves the trial where it is", async () => {
	const user = person();
	await begin(user);
	cleanup();
	let good = false;
	const sent = opened({
		[`PUT /jobs/${JOB}/notes/*`]: (b) =>
			good
				? { id: "n", rev: 1, body: (b as { body: object }).body }
				: json({ code: "invalid", message: "The text is too long." }, 422),
	});
	await user.type(await screen.findByRole("textbox", { name: "What is changed, for the report" }), "soil raised");
	const keep = await screen.findByRole("button", { name: "Keep as a recommendation" });
	await user.click(keep);
	expect((await screen.findAllByText(/The text is too long/)).length).toBeGreaterThan(0);
	expect(screen.getByRole("region", { name: "A change that is tried" })).toBeTruthy();
	good = true;
	await user.click(keep);
	await waitFor(() => expect(screen.queryByRole("region", { name: "A change that is tried" })).toBeNull());
	const notes = sent.filter((s) => s.to.startsWith("PUT") && s.to.includes("/notes/"));
	expect(notes.at(-1)?.body).toMatchObject({ body: { kind: "recommendation", place: { face: "front", zone: "ground" } } });
});

it("fewer than three readings are no surface, and where to stand is said", async () => {
	kept = { spots: [spot("P1", "-100 mm")] } as unknown as GroundRecord;
	opened();
	expect(await screen.findByText(/from three readings on there is a surface/)).toBeTruthy();
	const ponds = within(await screen.findByRole("list", { name: "Ponds" })).getAllByRole("listitem");
	expect(ponds.map((p) => p.textContent)).toEqual([
		"A by the door50 mm deep and 0.20 m³ before it runs over; 12.0 m² drain into it. It runs to the rear.",
	]);
});
