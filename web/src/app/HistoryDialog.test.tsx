import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, json, person, serve, show } from "../testing";
import { HistoryDialog } from "./HistoryDialog";

const row = (seq: number, sentence: string, more = {}) => ({
	seq,
	sentence,
	at: "2026-11-18T10:31:00Z",
	who: "Ida Marrow",
	undo: false,
	undone: false,
	before: null,
	after: null,
	...more,
});
const rows = [
	row(9, "Roof changed", {
		before: { masses: [{ id: "A", eave: "2.7 m" }], wear: {}, papers: [] },
		after: { masses: [{ id: "A", eave: "3.4 m", front_wall: "brick" }], wear: null },
	}),
	row(8, "Note deleted", { undone: true, before: { text: "torn boot" } }),
	row(7, "Note put back", { undo: true }),
];

function opened(more: Parameters<typeof serve>[0] = {}) {
	const sent = serve({ [`GET /jobs/${JOB}/history`]: () => rows, ...more });
	show(<HistoryDialog job={JOB} onClose={() => undefined} />);
	return sent;
}
const line = async (sentence: string) => within((await screen.findByText(sentence)).closest("li") as HTMLElement);

it("a change is shown by the fields that differ, what came beside what was, and nothing else", async () => {
	const user = person();
	opened();
	const roof = await line("Roof changed");
	const more = roof.getByRole("button", { name: "Before and after" });
	expect(more.getAttribute("aria-expanded")).toBe("false");
	await user.click(more);
	expect(more.getAttribute("aria-expanded")).toBe("true");
	const cells = roof.getAllByRole("definition").map((d) => d.textContent);
	expect(cells).toEqual(["2.7 m", "3.4 m", "—", "brick"]);
	expect(roof.getByText("masses 0 front wall")).toBeTruthy();
	// An empty list and nothing are the same.
	expect(roof.queryByText("papers")).toBeNull();
	// One line is open at a time, and closes again.
	const deleted = await line("Note deleted");
	await user.click(deleted.getByRole("button", { name: "Before and after" }));
	expect(roof.queryByRole("definition")).toBeNull();
	expect(deleted.getAllByRole("definition").map((d) => d.textContent)).toEqual(["torn boot", "—"]);
	await user.click(deleted.getByRole("button", { name: "Before and after" }));
	expect(deleted.queryByRole("definition")).toBeNull();
});

it("what was taken back says so in words, not by a line alone", async () => {
	opened();
	expect((await line("Note deleted")).getByText("(taken back)")).toBeTruthy();
	expect((await line("Note put back")).getByText("(undone or done again)")).toBeTruthy();
	expect((await line("Roof changed")).queryByText(/taken back|undone/)).toBeNull();
});

it("undo and redo are one request each, under keys of their own", async () => {
	const user = person();
	const sent = opened({
		[`POST /jobs/${JOB}/undo`]: () => ({ sentence: "Taken back: roof changed" }),
		[`POST /jobs/${JOB}/redo`]: () => ({ sentence: "Done again: roof changed" }),
	});
	await user.click(await screen.findByRole("button", { name: "Undo the last change" }));
	await user.click(screen.getByRole("button", { name: "Do it again" }));
	await waitFor(() => expect(sent.map((s) => s.to)).toEqual([`POST /jobs/${JOB}/undo`, `POST /jobs/${JOB}/redo`]));
	expect(new Set(sent.map((s) => s.key)).size).toBe(2);
});

it("the job as it was is shown for looking, and one that cannot be shown says why", async () => {
	const user = person();
	const finding = { note_id: "n", title: "Torn boot", place: "Rear, roof", urgency_words: "Now", measures: ["1/4 in"] };
	opened({
		[`GET /jobs/${JOB}/then/9`]: () => ({
			job: { body: { name: "The mill" } },
			coverage: { sentence: "3 of 24 places seen." },
			findings: [finding],
		}),
		[`GET /jobs/${JOB}/then/7`]: () => json({ code: "gone", message: "That change is not on record any more." }, 404),
	});
	await user.click((await line("Roof changed")).getByRole("button", { name: "The job then" }));
	const then = within(await screen.findByRole("dialog", { name: /As it was on/ }));
	expect(await then.findByText("3 of 24 places seen.", { exact: false })).toBeTruthy();
	expect(then.getByText("Rear, roof · Now · 1/4 in")).toBeTruthy();
	expect(then.queryByRole("textbox")).toBeNull();
	await user.keyboard("{Escape}");
	await user.click((await line("Note put back")).getByRole("button", { name: "The job then" }));
	expect((await screen.findByRole("alert")).textContent).toBe("That change is not on record any more.");
});
