import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import type { JobView, Note } from "../../api/queries";
import { JOB, json, person, serve, show } from "../../testing";
import type { GroundPage } from "./kinds";
import { Mendings, TryGround } from "./TryGround";

const view = { job: { id: JOB }, roof_rev: 1, rainwater_rev: 2, practice_version: 3, units: "metric" } as unknown as JobView;
const outlet = (distance: string) => ({ from_left: "0 m", bore: "75 mm", ends: "ground", distance });
const rainwater = {
	gutters: [
		{ id: "G1", outlets: [outlet("0.3 m"), outlet("1 m")] },
		{ id: "G2", outlets: [] },
		{ id: "G3", outlets: [outlet("2 ft")] },
	],
};
const trial = {
	changes: ["G1 lets go 2.4 m from the wall"],
	sentence: "Nothing stands against the wall any more.",
	rows: [
		{ what: "deepest at the wall", before: 60, after: 0, unit: "mm" },
		{ what: "off the lot", before: 800, after: 790, unit: "L" },
	],
	page: { account: { ponds: [{ id: "P1", face: "rear" }] } },
} as unknown as Schemas["GroundTrial"];

type Tried = Schemas["TriedGround"];
interface HeldProps {
	states: (Tried | null)[];
	of?: Schemas["GroundTrial"] | undefined;
	fault?: string | undefined;
	onKeep?: () => void;
}
function Held({ states, of, fault, onKeep = () => undefined }: HeldProps) {
	const [trying, set] = useState<Tried | null>({ ground: {} } as Tried);
	const setTrying = (t: Tried | null) => {
		states.push(t);
		set(t);
	};
	if (!trying) return <p>Nothing is tried.</p>;
	return <TryGround {...{ view, job: JOB, trying, setTrying, trial: of, fault, onKeep }} />;
}
function opened(props: Omit<HeldProps, "states"> = {}) {
	const sent = serve({
		[`GET /jobs/${JOB}/rainwater`]: () => ({ rainwater }),
		[`PUT /jobs/${JOB}/notes/*`]: (b) => ({ id: "n", rev: 1, body: (b as { body: Note }).body }),
	});
	const states: (Tried | null)[] = [];
	show(<Held states={states} {...props} />, { outlet: { units: "metric" } });
	return { sent, states };
}
const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });

it("an outlet is led farther out in what is tried, the others stay, and what was read stays as it is", async () => {
	const user = person();
	const { sent, states } = opened();
	const [first, second] = (await screen.findAllByRole("textbox", { name: "G1 lets go so far from the wall" })) as [
		HTMLElement,
		HTMLElement,
	];
	expect(screen.getByRole<HTMLInputElement>("textbox", { name: "G3 lets go so far from the wall" }).value).toBe("2 ft");
	await user.clear(second);
	await user.type(second, "8 ft");
	const distances = states.at(-1)?.rainwater?.gutters?.map((g) => (g.outlets ?? []).map((o) => o.distance));
	expect(distances).toEqual([["0.3 m", "8 ft"], [], ["2 ft"]]);
	expect((first as HTMLInputElement).value).toBe("0.3 m");
	expect(rainwater.gutters[0]?.outlets[1]?.distance).toBe("1 m");
	expect(sent).toEqual([]);
});

it("nothing can be kept before it is worked out, while it is wrong, or without a change", async () => {
	for (const props of [{}, { of: trial, fault: "An outlet cannot let go behind the wall." }, { of: { ...trial, changes: [] } }]) {
		const { unmount } = (() => {
			serve({ [`GET /jobs/${JOB}/rainwater`]: () => ({ rainwater }) });
			return show(<Held states={[]} {...props} />, { outlet: { units: "metric" } });
		})();
		expect(button("Keep as a recommendation").disabled).toBe(true);
		if ("fault" in props) {
			expect(screen.getByRole("alert").textContent).toBe("An outlet cannot let go behind the wall.");
			expect(button("The ground is like this: keep as read").disabled).toBe(true);
		}
		unmount();
	}
});

it("a change is kept as a recommendation at the face of the wet place, with its figures in the reader's units", async () => {
	const user = person();
	const { sent, states } = opened({ of: trial });
	const table = within(await screen.findByRole("table", { name: "Before and after" }));
	expect(table.getAllByRole("row").map((r) => r.textContent)).toEqual([
		"WhatBeforeAfter",
		"Deepest at the wall60 mm0 mm",
		"Off the lot800 L790 L",
	]);
	await user.type(screen.getByRole("textbox", { name: "What is changed, for the report" }), "A drain in the yard");
	await user.click(button("Keep as a recommendation"));
	await waitFor(() => expect(sent).toHaveLength(1));
	const [{ body }] = sent.map((s) => s.body) as [{ body: Note }];
	expect(body.place).toEqual({ face: "rear", zone: "ground" });
	expect(body.kind).toBe("recommendation");
	expect(body.text).toBe(
		"A drain in the yard; G1 lets go 2.4 m from the wall. Nothing stands against the wall any more. deepest at the wall 60 mm to 0 mm; off the lot 800 L to 790 L",
	);
	expect(states.at(-1)).toBeNull();
	expect((await screen.findByRole("status")).textContent).toBe("Kept as a recommendation.");
});

it("what is tried of the ground can be kept as read, but not an outlet that hangs otherwise; and it can be dropped", async () => {
	const user = person();
	let keeps = 0;
	const { states } = opened({
		of: trial,
		onKeep: () => {
			keeps += 1;
		},
	});
	const [first] = await screen.findAllByRole("textbox", { name: "G1 lets go so far from the wall" });
	await user.click(button("The ground is like this: keep as read"));
	expect(keeps).toBe(1);
	await user.type(first as HTMLElement, "0");
	expect(button("The ground is like this: keep as read").disabled).toBe(true);
	await user.click(button("Discard"));
	expect(states.at(-1)).toBeNull();
});

it("what would end it is worked out when it is asked for, warns before digging, and is kept at its own pond's face", async () => {
	const user = person();
	let asked = 0;
	const remedy = (words: string, digs: boolean) => ({ words, sentence: "60 mm before, none after.", digs });
	const mendings = [
		{
			pond: "P2",
			place: "store room wall",
			school: "Upstream first",
			remedies: [remedy("Lead the outlet out", false), remedy("A swale", true)],
		},
	];
	const sent = serve({
		[`GET /jobs/${JOB}/ground/mending`]: () => {
			asked += 1;
			return mendings;
		},
		[`PUT /jobs/${JOB}/notes/*`]: (b) => ({ id: "n", rev: 1, body: (b as { body: Note }).body }),
	});
	const page = {
		rev: 1,
		account: {
			ponds: [
				{ id: "P1", face: "front" },
				{ id: "P2", face: "left" },
			],
		},
	} as unknown as GroundPage;
	show(<Mendings view={view} page={page} />, { outlet: view });
	expect(asked).toBe(0);
	await user.click(button("What would end it, cheapest and farthest upstream first"));
	expect(await screen.findByText(/Call before digging/)).toBeTruthy();
	const kept = () => sent.map((s) => (s.body as { body: Note }).body);
	const [lead, swale] = screen.getAllByRole("button", { name: "Keep as recommendation" }) as [HTMLElement, HTMLElement];
	await user.click(lead);
	await waitFor(() => expect(kept()).toHaveLength(1));
	await user.click(swale);
	await waitFor(() => expect(kept()).toHaveLength(2));
	expect(kept().map((n) => n.place.face)).toEqual(["left", "left"]);
	expect(kept()[0]?.text).toBe("Lead the outlet out. Water at the store room wall: 60 mm before, none after.");
	expect(kept()[1]?.text).toMatch(/Have buried services located before digging\.$/);
	expect(asked).toBe(1);
});

it("a house where nothing stands says so, and one that cannot be worked out says why", async () => {
	const user = person();
	const page = { rev: 1, account: { ponds: [] } } as unknown as GroundPage;
	serve({ [`GET /jobs/${JOB}/ground/mending`]: () => [] });
	const { unmount } = show(<Mendings view={view} page={page} />, { outlet: view });
	await user.click(button("What would end it, cheapest and farthest upstream first"));
	expect(await screen.findByText("Nothing stands against a wall in the design storm.")).toBeTruthy();
	expect(screen.queryByText(/Call before digging/)).toBeNull();
	unmount();
	serve({
		[`GET /jobs/${JOB}/ground/mending`]: () => json({ code: "too-large", message: "The lot is too large to try on." }, 422),
	});
	show(<Mendings view={view} page={{ ...page, rev: 2 }} />, { outlet: view });
	await user.click(button("What would end it, cheapest and farthest upstream first"));
	expect((await screen.findByRole("alert")).textContent).toBe("The lot is too large to try on.");
});

it("what the change is called is there again after another bench, and is gone with the trial", async () => {
	const user = person();
	opened({ of: trial });
	const words = () => screen.findByRole<HTMLInputElement>("textbox", { name: /^What is changed/ });
	await user.type(await words(), "Drain to the street");
	cleanup();
	opened({ of: trial });
	expect((await words()).value).toBe("Drain to the street");
	await user.click(button("Discard"));
	cleanup();
	opened({ of: trial });
	expect((await words()).value).toBe("");
});
