import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { Schemas } from "../../api/client";
import type { JobView } from "../../api/queries";
import { standing } from "../../parts/draft/keeper";
import { JOB, json, person, serve, show } from "../../testing";
import { Out } from "./Out";

const view = { job: { id: JOB }, notes: [{ id: "n1" }] } as unknown as JobView;
const leaving = (missing: Schemas["MissingThing"][]) =>
	({
		due: { words: "Due tomorrow", late: false, missing },
		letter: "Dear all.",
		subject: "Report",
		exports: [],
		links: [],
		said: [],
	}) as unknown as Schemas["Leaving"];
const stops = { words: "The day of the visit is not known.", note_id: null, stops: true } as Schemas["MissingThing"];
const wants = { words: "Boot split: picture is missing.", note_id: "n1", stops: false } as Schemas["MissingThing"];

it("what should stop it stops it until someone says that it is to go", async () => {
	const user = person();
	const sent = serve({ [`POST /jobs/${JOB}/send`]: () => ({}) });
	show(<Out view={view} leaving={leaving([stops])} onNote={() => undefined} />);
	await user.type(await screen.findByLabelText("To (address)"), "owner@mill.example");
	const button = screen.getByRole<HTMLButtonElement>("button", { name: "Send the PDF" });
	expect(button.disabled).toBe(true);
	await user.click(screen.getByRole("checkbox", { name: "It is to go as it is" }));
	expect(button.disabled).toBe(false);
	await user.click(button);
	await waitFor(() => expect(sent.length).toBe(1));
	expect(sent[0]?.body).toEqual({ to: "owner@mill.example", subject: "Report", text: "Dear all.", anyway: true });
});

it("a letter the post office does not take stays as it was typed", async () => {
	const user = person();
	serve({ [`POST /jobs/${JOB}/send`]: () => json({ code: "invalid", message: "This is no address.", field: "to" }, 422) });
	show(<Out view={view} leaving={leaving([])} onNote={() => undefined} />);
	await user.type(await screen.findByLabelText("To (address)"), "owner at mill");
	await user.type(screen.getByLabelText("Letter"), " More.");
	await user.click(screen.getByRole("button", { name: "Send the PDF" }));
	expect(await screen.findByText("This is no address.")).toBeTruthy();
	expect(screen.getByLabelText<HTMLTextAreaElement>("Letter").value).toBe("Dear all. More.");
	expect(screen.getByLabelText<HTMLInputElement>("To (address)").value).toBe("owner at mill");
});

it("pictures that are wanted are folded and lead to their finding", async () => {
	const user = person();
	const open = vi.fn();
	show(<Out view={view} leaving={leaving([wants])} onNote={open} />);
	const list = await screen.findByRole("list", { name: "Pictures that are missing", hidden: true });
	await user.click(screen.getByText("One finding wants a picture"));
	await user.click(within(list).getByRole("button", { name: "Open it" }));
	expect(open).toHaveBeenCalledWith("n1");
});

it("a letter half written is there again after another bench, and the next one begins anew when it is sent", async () => {
	const user = person();
	const sent = serve({ [`POST /jobs/${JOB}/send`]: () => ({}) });
	const open = () => show(<Out view={view} leaving={leaving([])} onNote={() => undefined} />);
	open();
	await user.type(await screen.findByLabelText("To (address)"), "owner@mill.example");
	await user.clear(screen.getByLabelText("Subject"));
	await user.type(screen.getByLabelText("Letter"), " The valley first.");
	// It is not kept anywhere, so that nobody leaves the page with it unasked.
	expect(standing()).toBe("typed");
	cleanup();
	open();
	const value = (label: string) => screen.getByLabelText<HTMLInputElement>(label).value;
	// A subject that was emptied is empty, and not as it was proposed.
	expect(["To (address)", "Subject", "Letter"].map(value)).toEqual(["owner@mill.example", "", "Dear all. The valley first."]);
	await user.click(screen.getByRole("button", { name: "Send the PDF" }));
	await waitFor(() => expect(value("To (address)")).toBe(""));
	expect(sent[0]?.body).toMatchObject({ to: "owner@mill.example", subject: "", text: "Dear all. The valley first." });
	expect(["Subject", "Letter"].map(value)).toEqual(["Report", "Dear all."]);
	expect(standing()).toBe("kept");
	// What was changed and put back as it was proposed is no letter of one's own.
	await user.type(screen.getByLabelText("Letter"), " x");
	expect(standing()).toBe("typed");
	await user.clear(screen.getByLabelText("Letter"));
	await user.type(screen.getByLabelText("Letter"), "Dear all.");
	expect(standing()).toBe("kept");
});
