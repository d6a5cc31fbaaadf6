import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { standing } from "../../parts/draft/keeper";
import { JOB, json, person, serve, show } from "../../testing";
import { sha256 } from "./keys";
import { WithClient } from "./WithClient";

type Props = Parameters<typeof WithClient>[0];
const said = (id: string, more: object = {}) => ({
	id,
	rev: 4,
	body: { at: "2026-11-18T10:05:00Z", note_id: "n1", kind: "question", text: "Is it safe?", answer: "", ...more },
});
const link = (id: string, more: object = {}) => ({
	id,
	rev: 2,
	body: {
		key_hash: "0".repeat(64),
		to: "The owner",
		made_at: "2026-11-01T08:00:00Z",
		until: "2199-01-01",
		withdrawn_at: null,
		...more,
	},
});
const view = {
	job: { id: JOB, body: { name: "The mill", brief: { recipient: "Mrs Tull" } } },
	findings: [{ note_id: "n1", number: 3, title: "Boot split" }],
};
function opened(leaving: { said?: object[]; links?: object[] }) {
	show(<WithClient {...({ view, leaving: { said: [], links: [], ...leaving } } as unknown as Props)} />);
	return person();
}
const kept = (b: unknown) => ({ id: "s", rev: 5, body: (b as { body: unknown }).body });
const answers = () => screen.findAllByRole<HTMLTextAreaElement>("textbox", { name: /^Answer;/ });

it("an address is made of a key that stays on this side: the server is given what the key makes, and the page shows it once", async () => {
	const sent = serve({ [`PUT /jobs/${JOB}/links/*`]: kept });
	const user = opened({});
	expect(screen.getByRole<HTMLInputElement>("textbox", { name: "For whom" }).value).toBe("Mrs Tull");
	await user.click(screen.getByRole("button", { name: "Make an address" }));
	const shown = await screen.findByText(/\/c\//);
	const key = shown.textContent?.split("/c/")[1] ?? "";
	expect(key.length).toBeGreaterThan(20);
	expect(sent).toHaveLength(1);
	expect(JSON.stringify(sent[0])).not.toContain(key);
	expect(sent[0]?.body).toMatchObject({ base: null, body: { key_hash: sha256(key), to: "Mrs Tull", withdrawn_at: null } });
});

it("an address that could not be made is not shown", async () => {
	serve({
		[`PUT /jobs/${JOB}/links/*`]: () => json({ code: "invalid", message: "A link lasts a year at most.", field: "until" }, 422),
	});
	const user = opened({});
	await user.click(screen.getByRole("button", { name: "Make an address" }));
	expect(await screen.findByText(/A link lasts a year at most/)).toBeTruthy();
	expect(screen.queryByText(/\/c\//)).toBeNull();
});

it("an address is withdrawn by its own revision, and one that is withdrawn cannot be so again", async () => {
	const sent = serve({ [`PUT /jobs/${JOB}/links/*`]: kept });
	const links = [
		link("l1"),
		link("l2", { to: "", withdrawn_at: "2026-11-05T09:00:00Z" }),
		link("l3", { to: "The agent", until: "2020-01-01" }),
	];
	const user = opened({ links });
	const rows = within(screen.getByRole("list", { name: "Addresses" })).getAllByRole("listitem");
	expect(rows.map((r) => r.textContent?.trim())).toEqual([
		"The owner opens until 2199-01-01 Withdraw it",
		"For nobody in particular withdrawn on 2026-11-05",
		"The agent ended on 2020-01-01 Withdraw it",
	]);
	await user.click(within(rows[0] as HTMLElement).getByRole("button", { name: "Withdraw it" }));
	await waitFor(() => expect(sent).toHaveLength(1));
	expect(sent[0]).toMatchObject({ to: `PUT /jobs/${JOB}/links/l1`, body: { base: 2, body: { to: "The owner" } } });
	const [body] = sent.map((x) => x.body) as [{ body: { withdrawn_at: string } }];
	expect(body.body.withdrawn_at).toMatch(/^\d{4}-/);
});

it("an answer that is half typed stays when another part is looked at, and is kept with what was asked", async () => {
	const sent = serve({ [`PUT /jobs/${JOB}/said/*`]: kept });
	const questions = { said: [said("s1"), said("s2", { text: "When?" })] };
	let user = opened(questions);
	await user.type((await answers())[1] as HTMLElement, "In spring");
	cleanup();
	expect(standing()).toBe("typed");
	user = opened(questions);
	expect((await answers()).map((a) => a.value)).toEqual(["", "In spring"]);
	const [, second] = screen.getAllByRole("button", { name: "Keep the answer" });
	await user.click(second as HTMLElement);
	await waitFor(() => expect(sent).toHaveLength(1));
	expect(sent[0]).toMatchObject({
		to: `PUT /jobs/${JOB}/said/s2`,
		body: { base: 4, body: { text: "When?", answer: "In spring", kind: "question", note_id: "n1" } },
	});
	await waitFor(() => expect(standing()).toBe("kept"));
});

it("an answer that was given elsewhere meanwhile is shown beside the one typed here", async () => {
	const theirs = said("s1", { answer: "In May" });
	serve({
		[`PUT /jobs/${JOB}/said/*`]: () => json({ code: "stale", message: "It was changed.", theirs: { ...theirs, rev: 9 } }, 409),
	});
	const user = opened({ said: [said("s1")] });
	await user.type((await answers())[0] as HTMLElement, "In June");
	await user.click(screen.getByRole("button", { name: "Keep the answer" }));
	expect(await screen.findByText(/This answer was changed elsewhere/)).toBeTruthy();
	expect(screen.getByText(/In May/)).toBeTruthy();
	expect((await answers())[0]?.value).toBe("In June");
});

it("what was told and known has no field for an answer, and says which finding it was about", async () => {
	serve({});
	opened({ said: [said("s1", { kind: "knew", text: "" }), said("s2", { kind: "asked", text: "How old?", note_id: null })] });
	const list = within(screen.getByRole("region", { name: "What was said" })).getAllByRole("listitem");
	expect(list.map((l) => l.textContent)).toEqual([
		"2026-11-18 10:05 They knew · 3 Boot split",
		"2026-11-18 10:05 They askedHow old?",
	]);
	expect(screen.queryByRole("textbox", { name: /^Answer;/ })).toBeNull();
});

it("a browser that does not let the address be copied says what to do", async () => {
	serve({ [`PUT /jobs/${JOB}/links/*`]: kept });
	const user = opened({});
	await user.click(screen.getByRole("button", { name: "Make an address" }));
	vi.spyOn(navigator.clipboard, "writeText").mockRejectedValue(new Error("no"));
	await user.click(await screen.findByRole("button", { name: "Copy" }));
	expect(await screen.findByText(/Mark it and copy it by hand/)).toBeTruthy();
	vi.restoreAllMocks();
});
