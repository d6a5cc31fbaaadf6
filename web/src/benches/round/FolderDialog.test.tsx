import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, json, type Person, person, serve, show } from "../../testing";
import { FolderDialog } from "./FolderDialog";

const view = {
	job: { id: JOB },
	notes: [{ id: "n1", body: { place: { face: "rear", zone: "roof" } } }],
	findings: [{ note_id: "n1", title: "Boot split" }],
};
const file = (name: string) => new File(["x"], name, { type: "image/jpeg" });
const attached = (id: string, more: object = {}) => ({
	duplicate: false,
	picture: { id, rev: 1, body: { caption: "", marks: [], note_id: null } },
	proposal: { note_id: null, why: "" },
	...more,
});
const proposed = (id: string) => attached(id, { proposal: { note_id: "n1", why: "It looks the same way." } });

/** Gives each picture that comes its answer, in the order they come. */
function opened(gives: (unknown | Response)[], more: Parameters<typeof serve>[0] = {}) {
	const left = [...gives];
	const sent = serve({ [`POST /jobs/${JOB}/pictures`]: () => left.shift(), ...more });
	show(<FolderDialog view={view as never} onClose={() => {}} />);
	return { user: person({ applyAccept: false }), sent };
}
/** Chooses files as the second button does; the first wants a folder, which a test page has none of. */
const choose = async (user: Person, files: File[]) => {
	await screen.findByRole("button", { name: "Choose pictures" });
	const [, input] = document.querySelectorAll<HTMLInputElement>("input[type=file]");
	await user.upload(input as HTMLInputElement, files);
};
const told = () =>
	within(screen.getByRole("dialog"))
		.getAllByRole("listitem")
		.map((l) => l.textContent);

it("pictures go in by name, what is none is passed over, and what is here already is told", async () => {
	const { user, sent } = opened([attached("p1"), attached("p2", { duplicate: true })]);
	await choose(user, [file("b.jpg"), file("notes.txt"), file("a.JPG")]);
	expect(await screen.findByText("2 of 2 read, 1 were here already")).toBeTruthy();
	expect(told()).toEqual(["a.JPG kept", "b.jpg here already"]);
	expect(sent).toHaveLength(2);
});

it("one that cannot be read is told by its name, and the rest go in", async () => {
	const { user } = opened([json({ code: "invalid", message: "This is no picture." }, 422), attached("p2")]);
	await choose(user, [file("a.jpg"), file("b.jpg")]);
	expect(await screen.findByText("2 of 2 read, 1 could not be read")).toBeTruthy();
	expect(told()).toEqual(["a.jpg This is no picture.", "b.jpg kept"]);
});

it("stopped, it says how far it came and that it can go on", async () => {
	let give = (_: unknown) => {};
	const { user, sent } = opened([new Promise((r) => (give = r)), attached("p2"), attached("p3")]);
	await choose(user, [file("a.jpg"), file("b.jpg"), file("c.jpg")]);
	await user.click(await screen.findByRole("button", { name: "Stop" }));
	give(attached("p1"));
	expect(await screen.findByText("1 of 3 read. Stopped; choose the folder again to go on.")).toBeTruthy();
	expect(sent).toHaveLength(1);
});

it("proposed pictures go to their notes with the note's place; one that is refused stays, says why and can be tried again", async () => {
	let good = false;
	const { user, sent } = opened([proposed("p1"), proposed("p2"), attached("p3")], {
		[`PUT /jobs/${JOB}/pictures/p1`]: (b) => ({ id: "p1", rev: 2, body: (b as { body: object }).body }),
		[`PUT /jobs/${JOB}/pictures/p2`]: (b) =>
			good ? { id: "p2", rev: 2, body: (b as { body: object }).body } : json({ code: "stale", message: "It was changed." }, 409),
	});
	await choose(user, [file("a.jpg"), file("b.jpg"), file("c.jpg")]);
	await user.click(await screen.findByRole("button", { name: "Put 2 pictures with the notes proposed" }));
	expect(await screen.findByText("It was changed.", { selector: "li span" })).toBeTruthy();
	const puts = () => sent.filter((s) => s.to.startsWith("PUT"));
	expect(puts()[0]?.body).toMatchObject({ base: 1, body: { note_id: "n1", place: { face: "rear", zone: "roof" }, caption: "" } });
	// The one that went there is done with; nothing was sent of the third.
	expect(told()).toEqual(["b.jpg It was changed.", "c.jpg kept"]);
	good = true;
	await user.click(screen.getByRole("button", { name: "Put one picture with the notes proposed" }));
	await waitFor(() => expect(told()).toEqual(["c.jpg kept"]));
	expect(puts().map((p) => p.to.slice(-2))).toEqual(["p1", "p2", "p2"]);
});
