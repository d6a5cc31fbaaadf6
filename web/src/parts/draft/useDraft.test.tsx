import { QueryClientProvider } from "@tanstack/react-query";
import { act, cleanup, render, screen, waitFor } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { queryClient, saveJob } from "../../api/queries";
import { reached } from "../../api/reach";
import { Standing, Unreached } from "../../app/Standing";
import { Field } from "../../design/fields";
import { person } from "../../testing";
import { Clashes } from "./Clashes";
import { forgetAll } from "./keeper";
import { useDraft } from "./useDraft";

type Job = Schemas["Job"];
const JOB = "0190aaaa-0000-7000-8000-00000000000a";
const kept = (rev: number, name: string, address: string) => ({
	id: JOB,
	rev,
	body: { name, brief: { address } } as unknown as Job,
});

/** The form as a bench would write it. */
function Form({ rev, job }: { rev: number; job: Job }) {
	const draft = useDraft<Job>(JOB, "job", { value: job, rev }, saveJob(JOB));
	const brief = draft.draft.brief as NonNullable<Job["brief"]>;
	return (
		<>
			<Standing />
			<Unreached />
			<Clashes draft={draft} what="The brief" />
			<Field
				label="Name"
				value={draft.draft.name}
				onChange={(name) => draft.later({ ...draft.draft, name })}
				error={draft.wrong.name}
			/>
			<Field
				label="Address"
				value={brief.address ?? ""}
				onChange={(address) => draft.later({ ...draft.draft, brief: { ...brief, address } })}
			/>
		</>
	);
}

const shown = (rev: number, job: Job) => (
	<QueryClientProvider client={queryClient}>
		<MemoryRouter>
			<Form rev={rev} job={job} />
		</MemoryRouter>
	</QueryClientProvider>
);

/** Answers requests one after the other as the test says. */
let answers: ((r: Request) => Promise<Response> | Response)[] = [];
let asked: { key: string | null; body: { base: number | null; body: Job } }[] = [];
const json = (body: unknown, status = 200) =>
	new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });

beforeEach(() => {
	answers = [];
	asked = [];
	vi.stubGlobal("fetch", async (input: Request | string) => {
		if (typeof input === "string") throw new TypeError("not reached");
		asked.push({ key: input.headers.get("idempotency-key"), body: await input.clone().json() });
		const next = answers.shift();
		if (!next) throw new TypeError("not reached");
		return next(input);
	});
});
afterEach(() => {
	cleanup();
	forgetAll();
	reached();
	vi.unstubAllGlobals();
});

it("a letter typed in the next field while the first save is on its way stays", async () => {
	const user = person();
	let release: (r: Response) => void = () => undefined;
	answers.push(
		() =>
			new Promise((r) => {
				release = r;
			}),
	);
	const start = kept(1, "Heron", "").body;
	const { rerender } = render(shown(1, start));
	await user.type(screen.getByLabelText("Name"), "!");
	await waitFor(() => expect(asked.length).toBe(1));
	expect(screen.getByRole("status").textContent).toBe("Keeping…");
	await user.type(screen.getByLabelText("Address"), "L");
	const first = kept(2, "Heron!", "");
	answers.push((r) => r.json().then((sent: { body: Job }) => json({ ...first, rev: 3, body: sent.body })));
	await act(async () => release(json(first)));
	// The page is asked anew after each save and brings the first one.
	rerender(shown(2, first.body));
	expect(screen.getByLabelText<HTMLInputElement>("Address").value).toBe("L");
	await waitFor(() => expect(asked.length).toBe(2));
	expect(asked[1]?.body.body.brief?.address).toBe("L");
	await waitFor(() => expect(screen.getByRole("status").textContent).toBe("All kept"));
});

it("a save that fails is never called kept, stays as typed and is sent again as the same request", async () => {
	const user = person();
	render(shown(1, kept(1, "Heron", "").body));
	await user.type(screen.getByLabelText("Name"), " Boathouse");
	await waitFor(() => expect(screen.getByRole("status").textContent).toBe("Waiting for the server"));
	expect(screen.getByRole("alert").textContent).toContain("The server is not reached");
	expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("Heron Boathouse");
	answers.push(() => json(kept(2, "Heron Boathouse", "")));
	await waitFor(() => expect(screen.getByRole("status").textContent).toBe("All kept"), { timeout: 4000 });
	expect(new Set(asked.map((a) => a.key)).size).toBe(1);
	expect(asked.length).toBeGreaterThan(1);
	expect(screen.queryByRole("alert")).toBeNull();
});

it("a field that was changed on both sides shows both versions with a choice", async () => {
	const user = person();
	const theirs = kept(5, "Heron House", "Lake Lane");
	answers.push(() =>
		json({ code: "stale", message: "changed elsewhere", theirs: { ...theirs, kind: "job", job_id: JOB, deleted: false } }, 409),
	);
	answers.push((r) => r.json().then((sent: { base: number; body: Job }) => json({ id: JOB, rev: 6, body: sent.body })));
	render(shown(1, kept(1, "Heron", "").body));
	await user.type(screen.getByLabelText("Name"), " Boathouse");
	const choice = await screen.findByRole("radio", { name: "The other: Heron House" });
	expect(screen.getByRole<HTMLInputElement>("radio", { name: "Mine: Heron Boathouse" }).checked).toBe(true);
	// What only the other side changed is there already.
	expect(screen.getByLabelText<HTMLInputElement>("Address").value).toBe("Lake Lane");
	await user.click(choice);
	await user.click(screen.getByRole("button", { name: "Keep what is chosen" }));
	await waitFor(() => expect(screen.getByRole("status").textContent).toBe("All kept"));
	expect(screen.getByLabelText<HTMLInputElement>("Name").value).toBe("Heron House");
});

it("what the server refuses stands at its field", async () => {
	const user = person();
	answers.push(() => json({ code: "invalid", message: "A place needs a name.", field: "name" }, 422));
	render(shown(1, kept(1, "H", "").body));
	await user.clear(screen.getByLabelText("Name"));
	expect(await screen.findByText("A place needs a name.")).toBeTruthy();
	expect(screen.getByRole("status").textContent).toBe("Not kept: see the field");
});
