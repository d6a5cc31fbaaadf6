import { cleanup, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { standing } from "../../parts/draft/keeper";
import { JOB, person, serve, show } from "../../testing";
import { WalkReview } from "./WalkReview";

const BEGAN = "2026-11-20T10:00:40Z";
const note = (face: string | null) => ({
	t_s: 60,
	face,
	zone: "edge",
	station: null,
	component: "gutter",
	condition: null,
	kind: "defect",
	measures: [],
	extent: null,
	certainty: "seen",
	confidence: 0.8,
	others: [],
	text: "gutter is sagging",
	left_over: "",
});

function review(track: object[]) {
	const asked: URLSearchParams[] = [];
	serve({
		"GET /choices": () => ({ conditions: [], components: [] }),
		[`POST /jobs/${JOB}/walk`]: (_, request) => {
			const query = new URL(request.url).searchParams;
			asked.push(query);
			const began = query.get("began");
			return {
				notes: [note(began ? "left" : null)],
				maybe: [],
				sentences: 1,
				talk: 0,
				remarks: [],
				...(query.get("track")
					? {
							track: {
								began,
								found: false,
								named: 0,
								agree: 0,
								sentence: began ? "Places are from the wheel." : "Say when it began.",
							},
						}
					: {}),
			};
		},
	});
	show(<WalkReview />, { outlet: { job: { id: JOB, body: {} }, track } });
	return asked;
}

it("a walk is laid on the last track, and from when somebody says it began", async () => {
	const user = person();
	const asked = review([{ began: BEGAN, ended: "2026-11-20T10:15:00Z", places: 3 }]);
	await user.type(screen.getByLabelText("Paste what was said"), "Gutter is sagging.");
	await user.click(screen.getByRole("button", { name: "Read it" }));
	expect(await screen.findByText("Say when it began.")).toBeTruthy();
	expect([asked[0]?.get("track"), asked[0]?.get("began")]).toEqual([BEGAN, null]);
	expect(screen.getByText(/no face said/)).toBeTruthy();
	const lay = screen.getByRole("button", { name: "Lay it from then" });
	const off = (b: HTMLElement) => b.hasAttribute("disabled") || b.getAttribute("aria-disabled") === "true";
	expect(off(lay)).toBe(true);
	await user.type(screen.getByLabelText(/The recording began at/), "10:02:11");
	await user.click(lay);
	expect(await screen.findByText("Places are from the wheel.")).toBeTruthy();
	// The day is that of the track, the time that of the wheel's clock.
	const began = new Date(asked[1]?.get("began") ?? "");
	const day = new Date(BEGAN);
	expect([began.getFullYear(), began.getMonth(), began.getDate()]).toEqual([day.getFullYear(), day.getMonth(), day.getDate()]);
	expect([began.getHours(), began.getMinutes(), began.getSeconds()]).toEqual([10, 2, 11]);
	await waitFor(() => expect(screen.getByText(/left face/)).toBeTruthy());
});

it("a walk that has a track can be read without it, by what is said", async () => {
	const user = person();
	const asked = review([{ began: BEGAN, ended: "2026-11-20T10:15:00Z", places: 3 }]);
	await user.click(screen.getByRole("button", { name: /Places come from/ }));
	await user.click(await screen.findByRole("option", { name: "What is said" }));
	await waitFor(() => expect(screen.getByRole("button", { name: /Places come from/ }).textContent).toContain("What is said"));
	await user.type(screen.getByLabelText("Paste what was said"), "Gutter is sagging.");
	await user.click(screen.getByRole("button", { name: "Read it" }));
	await screen.findByText(/^1 note read from/);
	expect(asked[0]?.get("track")).toBeNull();
});

it("without a track nothing is said of one", async () => {
	const user = person();
	const asked = review([]);
	expect(screen.queryByText("Places come from")).toBeNull();
	await user.type(screen.getByLabelText("Paste what was said"), "Gutter is sagging.");
	await user.click(screen.getByRole("button", { name: "Read it" }));
	await screen.findByText(/^1 note read from/);
	expect(asked[0]?.get("track")).toBeNull();
	expect(screen.queryByLabelText(/The recording began at/)).toBeNull();
});

it("a note whose face nobody said is not kept before somebody says it", async () => {
	const user = person();
	review([]);
	await user.type(screen.getByLabelText("Paste what was said"), "Gutter is sagging.");
	await user.click(screen.getByRole("button", { name: "Read it" }));
	await user.click(await screen.findByRole("button", { name: "Keep" }));
	expect(await screen.findByText(/Choose the face of this note first/)).toBeTruthy();
	expect(screen.getByText(/0 kept/)).toBeTruthy();
});

it("a walk that is looked through stays where it is while another bench is looked at, and can be put aside and taken back", async () => {
	const user = person();
	review([]);
	await user.type(screen.getByLabelText("Paste what was said"), "Gutter is sagging.");
	expect(standing()).toBe("refused");
	cleanup();
	review([]);
	expect(screen.getByLabelText<HTMLTextAreaElement>("Paste what was said").value).toBe("Gutter is sagging.");
	await user.click(screen.getByRole("button", { name: "Read it" }));
	await user.click(await screen.findByRole("button", { name: "Change" }));
	const words = screen.getByLabelText("In your words");
	await user.clear(words);
	await user.type(words, "sags by the door");
	cleanup();
	review([]);
	// What was changed is not kept yet, and nothing says that it is.
	expect(await screen.findByText("“sags by the door”")).toBeTruthy();
	expect(standing()).toBe("typed");
	await user.click(screen.getByRole("button", { name: "Drop" }));
	expect(screen.getByText(/1 dropped/)).toBeTruthy();
	expect(standing()).toBe("kept");
	await user.click(screen.getByRole("button", { name: "Put this walk aside" }));
	expect(screen.getByLabelText<HTMLTextAreaElement>("Paste what was said").value).toBe("");
	await user.click(screen.getByRole("button", { name: "Take it back" }));
	expect(await screen.findByText("“sags by the door”")).toBeTruthy();
	expect(screen.getByText(/1 dropped/)).toBeTruthy();
});
