import { cleanup, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { standing } from "../../parts/draft/keeper";
import { JOB, json, person, serve, show } from "../../testing";
import { WalkBack } from "./WalkBack";

const finding = (number: number, title: string) => ({
	number,
	title,
	note_id: `n${number}`,
	section: "findings",
	in_report: true,
	place: "Rear, roof",
	ticks: 2,
	urgency_words: "Before next rain",
	measures: [],
});
const view = {
	job: { id: JOB, body: { name: "The mill" } },
	findings: [finding(1, "Boot split"), finding(2, "Gutter end open"), { ...finding(3, "Left out"), section: "left-out" }],
	pictures: [],
	notes: [],
};
const said = (to: string) => to.startsWith(`PUT /jobs/${JOB}/said/`);

/** A server that keeps what was said, or refuses it. */
function server(refuses = false) {
	const answers: Parameters<typeof serve>[0] = { [`GET /jobs/${JOB}`]: () => view };
	const keep = (b: unknown) =>
		refuses
			? json({ code: "invalid", message: "That is too long to be kept.", field: "text" }, 422)
			: { id: "s", rev: 1, body: (b as { body: unknown }).body };
	return serve(new Proxy(answers, { get: (t, k: string) => t[k] ?? (said(k) ? keep : undefined) }));
}

it("goes on by arrow and never past its ends; a letter in a field does not go on", async () => {
	const user = person();
	server();
	show(<WalkBack />);
	await screen.findByRole("heading", { name: "1. Boot split" });
	await user.keyboard("{ArrowLeft}{ArrowRight}");
	expect(screen.getByRole("heading", { name: "2. Gutter end open" })).toBeTruthy();
	await user.keyboard("{ArrowRight}");
	expect(screen.getByText("2 of 2")).toBeTruthy();
	await user.click(screen.getByRole("button", { name: "They asked…" }));
	await user.keyboard("why{ArrowLeft}");
	expect(screen.getByText("2 of 2")).toBeTruthy();
});

it("what they asked is kept with its finding, and its field is free again", async () => {
	const user = person();
	const sent = server();
	show(<WalkBack />);
	await user.click(await screen.findByRole("button", { name: "They asked…" }));
	await user.keyboard("Does it go on?");
	await user.click(screen.getByRole("button", { name: "Keep it" }));
	await screen.findByText("Kept with its time: they asked.");
	expect(sent[0]?.body).toMatchObject({ base: null, body: { note_id: "n1", kind: "asked", text: "Does it go on?" } });
	await user.click(screen.getByRole("button", { name: "They asked…" }));
	expect(screen.getByLabelText<HTMLInputElement>("What they asked").value).toBe("");
});

it("what cannot be kept stays in its field", async () => {
	const user = person();
	const sent = server(true);
	show(<WalkBack />);
	await user.click(await screen.findByRole("button", { name: "They asked…" }));
	await user.keyboard("Does it go on?");
	await user.click(screen.getByRole("button", { name: "Keep it" }));
	await waitFor(() => expect(sent.length).toBe(1));
	expect(await screen.findByText(/too long to be kept/)).toBeTruthy();
	expect(screen.getByLabelText<HTMLInputElement>("What they asked").value).toBe("Does it go on?");
});

it("what is being asked stays with the finding it is asked about, and nothing says it is kept", async () => {
	const user = person();
	const sent = server();
	show(<WalkBack />);
	await user.click(await screen.findByRole("button", { name: "They asked…" }));
	await user.keyboard("Does it go on?");
	await user.click(screen.getByRole("button", { name: "Next" }));
	// The second finding has buttons and no text of the first.
	await user.click(await screen.findByRole("button", { name: "They knew" }));
	await screen.findByText("Kept with its time: they knew.");
	expect(standing()).toBe("refused");
	cleanup();
	show(<WalkBack />);
	await screen.findByRole("heading", { name: "1. Boot split" });
	expect(screen.getByLabelText<HTMLInputElement>("What they asked").value).toBe("Does it go on?");
	await user.click(screen.getByRole("button", { name: "Keep it" }));
	await screen.findByText("Kept with its time: they asked.");
	expect(sent.map((s) => (s.body as { body: object }).body)).toMatchObject([
		{ note_id: "n2", kind: "knew", text: "" },
		{ note_id: "n1", kind: "asked", text: "Does it go on?" },
	]);
	expect(standing()).toBe("kept");
});

it("a question that is left is gone, because somebody said so", async () => {
	const user = person();
	server();
	show(<WalkBack />);
	await user.click(await screen.findByRole("button", { name: "They asked…" }));
	await user.keyboard("Never mind");
	await user.click(screen.getByRole("button", { name: "Leave it" }));
	expect(screen.queryByLabelText("What they asked")).toBeNull();
	expect(standing()).toBe("kept");
});
