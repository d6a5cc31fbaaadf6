import { screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import type { JobView, Note } from "../../api/queries";
import { JOB, json, person, serve, show } from "../../testing";
import { NoteDialog } from "./NoteDialog";

const NOTE = "0190aaaa-0000-7000-8000-0000000000aa";
const body = {
	place: { face: "left", zone: "base" },
	kind: "defect",
	text: "soil at the boards",
	condition: "soil-high-at-cladding",
	measures: [],
	certainty: "seen",
	facts: {},
	at: "2026-05-04T09:00:00Z",
} as unknown as Note;
const inch = { quantity: "length", value: 2, exact: "2", unit: "in", si: 0.0508, text: "2 in", bound: "exactly" };
const suggestion = { reasons: [{ text: "Soil against wood.", effect: "start", step: "soon" }], step: "soon" };

/** The dialog until it is closed. */
function Open({ view, onClose }: { view: JobView; onClose: () => void }) {
	const [open, set] = useState(true);
	const close = () => {
		onClose();
		set(false);
	};
	return open ? <NoteDialog view={view} id={NOTE} onClose={close} onPicture={() => undefined} /> : null;
}

function dialog(answers: Record<string, (body: unknown) => unknown> = {}, finding = {}) {
	const view = {
		job: { id: JOB },
		notes: [{ id: NOTE, rev: 3, body }],
		findings: [{ note_id: NOTE, title: "Soil at cladding", urgency_words: "Soon", suggestion, by_hand: false, ...finding }],
		pictures: [],
		coverage: { cells: [{ cell: "left-base", name: "left, base" }] },
	} as unknown as JobView;
	const sent = serve({
		"GET /choices": () => ({ conditions: [], components: [], urgencies: [{ value: "now", name: "Now" }] }),
		[`PUT /jobs/${JOB}/notes/${NOTE}`]: (b) => ({ id: NOTE, rev: 4, body: (b as { body: unknown }).body }),
		...answers,
	});
	let closed = 0;
	show(
		<Open
			view={view}
			onClose={() => {
				closed += 1;
			}}
		/>,
	);
	return { puts: () => sent.filter((s) => s.to.startsWith("PUT")), closed: () => closed };
}
const field = (name: string) => screen.getByRole<HTMLInputElement>("textbox", { name });

it("what is typed while a measure is being read stays, and the measure is added to it", async () => {
	const user = person();
	let read = (_: unknown) => {};
	const { puts } = dialog({ "POST /calc/measure": () => new Promise((r) => (read = r)) });
	await user.type(field("Add a measure"), "2 in");
	await user.click(screen.getByRole("button", { name: "Add measure" }));
	await user.type(field("In your words"), ", wet");
	await user.type(field("Add a measure"), " or 3");
	read(inch);
	expect(await screen.findByRole("button", { name: "Take out 2 in" })).toBeTruthy();
	expect(field("In your words").value).toBe("soil at the boards, wet");
	// Half a next measure is not emptied by the answer to the one before.
	expect(field("Add a measure").value).toBe("2 in or 3");
	await user.click(screen.getByRole("button", { name: "Keep changes" }));
	await waitFor(() =>
		expect(puts().at(-1)?.body).toMatchObject({ body: { text: "soil at the boards, wet", measures: [{ text: "2 in" }] } }),
	);
});

it("what is no measure says so at its field, stays there, and changes nothing", async () => {
	const user = person();
	const said = { code: "invalid", message: "“two” has no unit. Write 2 in or 50 mm.", field: null };
	const { puts } = dialog({ "POST /calc/measure": () => json(said, 422) });
	await user.type(field("Add a measure"), "two");
	await user.click(screen.getByRole("button", { name: "Add measure" }));
	expect(await screen.findByText(/has no unit/)).toBeTruthy();
	expect(field("Add a measure").value).toBe("two");
	expect(screen.queryByRole("button", { name: /Take out/ })).toBeNull();
	expect(puts()).toEqual([]);
});

it("a step set by hand asks why, and what the server refuses stands at that field with the dialog open", async () => {
	const user = person();
	const refused = { code: "invalid", message: "Say why it is set by hand.", field: "urgency_by_hand" };
	const { closed } = dialog({ [`PUT /jobs/${JOB}/notes/${NOTE}`]: () => json(refused, 422) });
	expect(screen.queryByRole("textbox", { name: "Because" })).toBeNull();
	await user.click(screen.getByRole("button", { name: /Set by hand/ }));
	await user.click(await screen.findByRole("option", { name: "Now" }));
	await user.click(screen.getByRole("button", { name: "Keep changes" }));
	await waitFor(() => expect(screen.getAllByText("Say why it is set by hand.").length).toBeGreaterThan(0));
	expect(field("Because").getAttribute("aria-invalid")).toBe("true");
	expect(closed()).toBe(0);
});

it("reasons of the suggestion are shown, and taking the fact of water is one change on the kept revision", async () => {
	const user = person();
	const { puts, closed } = dialog();
	expect(screen.getByText("Soil against wood.")).toBeTruthy();
	await user.click(screen.getByRole("checkbox", { name: "Water is confirmed active" }));
	await user.click(screen.getByRole("button", { name: "Keep changes" }));
	await waitFor(() => expect(closed()).toBe(1));
	expect(puts().length).toBe(1);
	expect(puts()[0]?.body).toMatchObject({ base: 3, body: { facts: { water_active: true }, text: "soil at the boards" } });
});
