import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { JOB, json, person, serve, show } from "../../testing";
import { Return } from "./Return";

type Kept = Schemas["ReturnKept"];
const line = (id: string, number: number, title: string, more = {}) => ({
	id,
	number,
	title,
	said: "",
	by: "",
	...more,
});
const start = (): Kept =>
	({
		of: "0190aaaa-0000-7000-8000-00000000000b",
		of_name: "The mill",
		then_on: "2026-05-04",
		said_mended: true,
		lines: [line("a", 1, "Gutter end open"), line("b", 2, "Flashing short"), line("c", 3, "Boot split", { do_not_cover: true })],
	}) as unknown as Kept;

/** A server that keeps the visit and asks a reason for what was done wrong. */
function server() {
	let kept = start();
	let rev = 4;
	const page = () => ({
		kept,
		rev,
		account: { sentence: "Of 3 recommendations.", order: ["c", "a", "b"], readings: [], letter: ["Left."], counts: [], open: 3 },
	});
	const path = `/jobs/${JOB}/return`;
	const sent = serve({
		[`GET ${path}`]: page,
		[`PUT ${path}`]: (b) => {
			const { body } = b as { body: Kept };
			const mute = body.lines?.find((l) => l.became === "done-wrong" && !l.said);
			if (mute) return json({ code: "invalid", message: "Say what is wrong with it.", field: `lines.${mute.id}.said` }, 422);
			kept = body;
			rev += 1;
			return { id: JOB, rev, body };
		},
	});
	return { sent, kept: () => kept };
}
const view = { job: { id: JOB } };
const entry = (name: string) => within(screen.getByRole("listitem", { name }));

it("what must not be covered comes first, and one key answers and opens the line", async () => {
	const user = person();
	const { kept } = server();
	show(<Return />, { outlet: view });
	const names = (await screen.findAllByRole("listitem")).map((l) => l.getAttribute("aria-label"));
	expect(names).toEqual(["3. Boot split", "1. Gutter end open", "2. Flashing short"]);
	entry("1. Gutter end open").getByRole("button", { name: "More" }).focus();
	await user.keyboard("3");
	await waitFor(() => expect(kept().lines?.find((l) => l.id === "a")?.became).toBe("not-done"));
	expect(entry("1. Gutter end open").getByLabelText("What was seen")).toBeTruthy();
	expect(entry("1. Gutter end open").getByRole("button", { name: "Not done" }).getAttribute("aria-pressed")).toBe("true");
	// The other lines are as they were.
	expect(kept().lines?.filter((l) => l.became).length).toBe(1);
});

it("done wrong asks for its reason at its field, and both are kept together", async () => {
	const user = person();
	const { kept, sent } = server();
	show(<Return />, { outlet: view });
	await screen.findByRole("listitem", { name: "2. Flashing short" });
	await user.click(entry("2. Flashing short").getByRole("button", { name: "Done wrong" }));
	expect(await screen.findByText("Say what is wrong with it.")).toBeTruthy();
	expect(kept().lines?.some((l) => l.became)).toBe(false);
	// Digits that are typed into a field are text, not answers.
	await user.type(entry("2. Flashing short").getByLabelText("What was seen"), "cut 3 in short");
	await user.tab();
	await waitFor(() =>
		expect(kept().lines?.find((l) => l.id === "b")).toMatchObject({ became: "done-wrong", said: "cut 3 in short" }),
	);
	expect(screen.queryByText("Say what is wrong with it.")).toBeNull();
	expect(sent.every((s) => s.key)).toBe(true);
});

it("a visit nobody started says where it is started", async () => {
	serve({ [`GET /jobs/${JOB}/return`]: () => json({ code: "not-found", message: "This job stands on no earlier visit." }, 404) });
	show(<Return />, { outlet: view });
	expect((await screen.findByRole("alert")).textContent).toContain("stands on no earlier visit");
});
