import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobView } from "../../api/queries";
import { JOB, person, serve, show } from "../../testing";
import { Details } from "./Details";
import type { Page } from "./useRoof";

const detail = (key: string, more = {}) => ({
	key,
	words: `Valley ${key}`,
	why: "Two slopes meet here.",
	state: "open",
	said: "",
	size: "4.2 m",
	conditions: ["valley-lining-open"],
	...more,
});

function details(rows: object[], answers: object = {}) {
	const sent = serve({
		"GET /choices": () => ({
			conditions: [
				{ id: "valley-lining-open", name: "Valley lining open", sees: "rust" },
				{ id: "roof-debris-dam", name: "Debris dam on roof", sees: "leaves" },
			],
			limits: [{ value: "too-steep", name: "too steep" }],
		}),
		[`POST /jobs/${JOB}/roof/answers`]: () => ({ seq: 3 }),
	});
	const page = { rev: 7, roof: { answers }, account: { details: rows } } as unknown as Page;
	const chosen: unknown[] = [];
	const view = { job: { id: JOB } } as unknown as JobView;
	show(<Details view={view} page={page} chosen={{ kind: "detail", id: "v2" }} onChoose={(c: unknown) => chosen.push(c)} />);
	return { given: () => sent.filter((s) => s.to.startsWith("POST")).map((s) => s.body), chosen };
}
const row = (words: string) => within(screen.getByText(words).closest("li") as HTMLElement);

it("what is right is answered in one press, on the revision that is shown", async () => {
	const user = person();
	const { given, chosen } = details([detail("v1"), detail("v2")]);
	expect(screen.getByText(/^0 of 2 answered/)).toBeTruthy();
	expect(screen.getByText("Valley v2").closest("li")?.getAttribute("data-chosen")).toBe("true");
	await user.click(row("Valley v1").getByRole("button", { name: "Right" }));
	await waitFor(() => expect(given()[0]).toMatchObject({ base: 7, key: "v1", answer: { found: "right" } }));
	await user.click(screen.getByText("Valley v1"));
	expect(chosen).toEqual([{ kind: "detail", id: "v1" }]);
});

it("what is wrong asks which condition, its own first, any other behind", async () => {
	const user = person();
	const { given } = details([detail("v1")]);
	await user.click(row("Valley v1").getByRole("button", { name: /^Wrong/ }));
	await user.click(await screen.findByRole("button", { name: "Valley lining open" }));
	await waitFor(() =>
		expect(given()[0]).toMatchObject({ key: "v1", answer: { found: "wrong", condition: "valley-lining-open" } }),
	);
	expect(screen.queryByText("What is wrong with it? It becomes a note at its place.")).toBeNull();
});

it("what could not be seen asks why", async () => {
	const user = person();
	const { given } = details([detail("v1")]);
	await user.click(row("Valley v1").getByRole("button", { name: /^Not seen/ }));
	await user.click(await screen.findByRole("button", { name: "Too steep" }));
	await waitFor(() => expect(given()[0]).toMatchObject({ answer: { found: "not-seen", reason: "too-steep" } }));
});

it("only what was answered here can be opened again: what a note says of it is the note's", async () => {
	const user = person();
	const rows = [detail("v1", { state: "right" }), detail("v2", { state: "wrong", said: "Valley lining open" })];
	const { given } = details(rows, { v1: { found: "right" } });
	expect(screen.getByText(/^2 of 2 answered/)).toBeTruthy();
	expect(row("Valley v2").queryByRole("button", { name: "Open again" })).toBeNull();
	await user.click(row("Valley v1").getByRole("button", { name: "Open again" }));
	await waitFor(() => expect(given()[0]).toMatchObject({ key: "v1", answer: null }));
});
