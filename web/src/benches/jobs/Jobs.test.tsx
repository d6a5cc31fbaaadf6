import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { json, person, serve, show } from "../../testing";
import { Jobs } from "./Jobs";

const job = (n: number, more: object = {}) => ({
	id: `0190aaaa-0000-7000-8000-00000000010${n}`,
	rev: 4,
	name: `Place ${n}`,
	visit_name: "Condition",
	address: "",
	visited_on: null,
	due: "",
	closed: false,
	coverage: "3 of 25 places",
	hazards: 0,
	tally: { expected: 25, seen: 2, noted: 1, limited: 0, untouched: 22 },
	...more,
});

const opened = (answers: Parameters<typeof serve>[0]) => {
	const sent = serve({ "GET /buildings": () => [], ...answers });
	show(<Jobs />, { at: "/", path: "/" });
	return sent;
};

it("a hazard, a closed visit and a report that is due are said in words", async () => {
	const jobs = [job(1, { hazards: 2 }), job(2, { closed: true }), job(3, { due: "due tomorrow" })];
	opened({ "GET /jobs": () => ({ jobs, all: 3 }) });
	const rows = within(await screen.findByRole("list", { name: "Jobs" })).getAllByRole("listitem");
	expect(rows[0]?.textContent).toContain("Hazard noted");
	expect(rows[0]?.textContent).toContain("No date for the report");
	expect(rows[1]?.textContent).toContain("Visit closed");
	expect(rows[2]?.textContent).toContain("due tomorrow");
	expect(rows[1]?.textContent).not.toContain("Hazard");
});

it("a job that was deleted is brought back from the message, by undoing in that job", async () => {
	const user = person();
	let there = [job(1), job(2)];
	const gone = job(2);
	const sent = opened({
		"GET /jobs": () => ({ jobs: there, all: there.length }),
		[`DELETE /jobs/${gone.id}`]: () => {
			there = [job(1)];
			return { id: gone.id, rev: 5, body: {} };
		},
		[`POST /jobs/${gone.id}/undo`]: () => {
			there = [job(1), job(2)];
			return { undone: "job deleted" };
		},
	});
	await user.click(await screen.findByRole("button", { name: "Delete Place 2" }));
	await waitFor(() => expect(screen.queryByRole("button", { name: "Delete Place 2" })).toBeNull());
	await user.click(await screen.findByRole("button", { name: "Bring it back" }));
	expect(await screen.findByRole("button", { name: "Delete Place 2" })).toBeTruthy();
	expect(sent.map((s) => s.to)).toEqual([`DELETE /jobs/${gone.id}`, `POST /jobs/${gone.id}/undo`]);
});

it("a deletion that another change has overtaken is refused, and the job stays", async () => {
	const user = person();
	const one = job(1);
	opened({
		"GET /jobs": () => ({ jobs: [one], all: 1 }),
		[`DELETE /jobs/${one.id}`]: () => json({ code: "stale", message: "Place 1 was changed elsewhere. Look at it first." }, 409),
	});
	await user.click(await screen.findByRole("button", { name: "Delete Place 1" }));
	expect(await screen.findByText(/was changed elsewhere/)).toBeTruthy();
	expect(screen.getByRole("button", { name: "Delete Place 1" })).toBeTruthy();
	expect(screen.queryByRole("button", { name: "Bring it back" })).toBeNull();
});

it("what is searched for is shown with its words marked, as text whatever it holds", async () => {
	const user = person();
	const hit = { job_id: job(1).id, job: "Place 1", note_id: null, snippet: "torn ‹boot› <b>at</b> the ‹flue›" };
	opened({
		"GET /jobs": () => ({ jobs: [job(1)], all: 1 }),
		"GET /search": (_body, request) => (new URL(request.url).searchParams.get("words") === "boot" ? [hit] : []),
	});
	const find = await screen.findByRole("textbox", { name: "Find in all jobs and notes" });
	await user.type(find, "boot");
	const found = await screen.findByRole("list", { name: "Found" });
	expect([...found.querySelectorAll("mark")].map((m) => m.textContent)).toEqual(["boot", "flue"]);
	expect(found.textContent).toContain("<b>at</b>");
	await user.type(find, "s");
	expect(await screen.findByText("Nothing has all of these words.")).toBeTruthy();
	await user.clear(find);
	expect(await screen.findByRole("list", { name: "Jobs" })).toBeTruthy();
});

it("a job needs a name and nothing else; blanks are none", async () => {
	const user = person();
	const sent = opened({ "GET /jobs": () => ({ jobs: [], all: 0 }) });
	const name = await screen.findByRole("textbox", { name: "Name of the place" });
	const start = screen.getByRole<HTMLButtonElement>("button", { name: "Start a job" });
	await user.type(name, "   ");
	expect(start.disabled).toBe(true);
	await user.type(name, "{Enter}");
	expect(sent).toEqual([]);
	await user.type(name, "Heron ");
	expect(start.disabled).toBe(false);
});

it("more jobs than are shown are said, and asked for", async () => {
	const user = person();
	opened({
		"GET /jobs": (_body, request) => {
			const most = Number(new URL(request.url).searchParams.get("most"));
			return { jobs: most > 50 ? [job(1), job(2), job(3)] : [job(1), job(2)], all: 3 };
		},
	});
	expect(await screen.findByText("2 of 3 jobs")).toBeTruthy();
	await user.click(screen.getByRole("button", { name: "Show more" }));
	expect(await screen.findByRole("link", { name: "Place 3" })).toBeTruthy();
	expect(screen.queryByText("2 of 3 jobs")).toBeNull();
});
