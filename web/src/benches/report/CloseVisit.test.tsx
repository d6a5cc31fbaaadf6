import { screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobView } from "../../api/queries";
import { JOB, json, person, serve, show } from "../../testing";
import { CloseVisit } from "./CloseVisit";

const cell = (name: string, state = "untouched", expected = true) => ({
	cell: name.replace(", ", "-"),
	name,
	state,
	expected,
});

function closing(cells: ReturnType<typeof cell>[], answer: (body: unknown) => unknown = () => ({ seq: 9 })) {
	const sent = serve({
		"GET /choices": () => ({ limits: [{ value: "locked", name: "locked" }] }),
		[`POST /jobs/${JOB}/close`]: answer,
	});
	let closed = 0;
	const view = { job: { id: JOB, rev: 5 }, coverage: { cells } } as unknown as JobView;
	show(
		<CloseVisit
			view={view}
			onClose={() => {
				closed += 1;
			}}
		/>,
	);
	return { sent: () => sent.filter((s) => s.to.startsWith("POST")), closed: () => closed };
}
const press = async (name: string) => person().click(screen.getByRole("button", { name }));

it("only what was asked for and not looked at is asked about, and what is left open is said before it closes", async () => {
	const { sent, closed } = closing([
		cell("left, base"),
		cell("left, roof"),
		cell("rear, base", "found"),
		cell("rear, roof", "untouched", false),
	]);
	expect(screen.getByText(/^2 places were not looked at/)).toBeTruthy();
	expect(screen.getByText("2 places stay open and will be printed as not looked at.")).toBeTruthy();
	expect(screen.queryByText("rear, base")).toBeNull();
	await press("Close the visit");
	await waitFor(() => expect(closed()).toBe(1));
	// A gap is no answer: nothing is made up for it.
	expect(sent()[0]?.body).toEqual({ base: 5, answers: [] });
});

it("a place may be seen, or not seen for a reason; each goes as what it is", async () => {
	const user = person();
	const { sent } = closing([cell("left, base"), cell("left, roof"), cell("rear, base")]);
	await user.click(screen.getByRole("button", { name: /left, base/ }));
	await user.click(await screen.findByRole("option", { name: "Seen, nothing to note" }));
	await user.click(screen.getByRole("button", { name: /left, roof/ }));
	await user.click(await screen.findByRole("option", { name: "Could not be seen: locked" }));
	expect(screen.getByText("One place stays open and will be printed as not looked at.")).toBeTruthy();
	await press("Close the visit");
	await waitFor(() => expect(sent().length).toBe(1));
	expect(sent()[0]?.body).toEqual({
		base: 5,
		answers: [
			{ cell: "left-base", state: "seen" },
			{ cell: "left-roof", state: "limited", reason: "locked", detail: "" },
		],
	});
});

it("all at once were seen, and one taken back stays open", async () => {
	const user = person();
	const { sent } = closing([cell("left, base"), cell("left, roof")]);
	await press("All of them were seen");
	expect(screen.queryByText(/will be printed as not looked at/)).toBeNull();
	await user.click(screen.getByRole("button", { name: /left, roof/ }));
	await user.click(await screen.findByRole("option", { name: /^Leave open/ }));
	await press("Close the visit");
	await waitFor(() => expect(sent()[0]?.body).toMatchObject({ answers: [{ cell: "left-base", state: "seen" }] }));
});

it("a visit that could not be closed stays open with its answers", async () => {
	const said = { code: "stale", message: "This job was changed meanwhile.", field: null };
	const { closed, sent } = closing([cell("left, base"), cell("left, roof")], () => json(said, 409));
	await press("All of them were seen");
	await press("Close the visit");
	await waitFor(() => expect(sent().length).toBe(1));
	expect(await screen.findByText(/changed meanwhile/)).toBeTruthy();
	expect(closed()).toBe(0);
	expect(screen.queryByText(/will be printed as not looked at/)).toBeNull();
});

it("where everything was looked at nothing is asked", () => {
	closing([cell("left, base", "found")]);
	expect(screen.getByText(/Every place this visit asks for/)).toBeTruthy();
	expect(screen.queryByRole("button", { name: "All of them were seen" })).toBeNull();
});
