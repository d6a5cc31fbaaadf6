import { cleanup, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { standing } from "../../parts/draft/keeper";
import { JOB, person, show } from "../../testing";
import type { GroundRecord } from "./kinds";
import { Lines } from "./Lines";

const spots = ["P1", "P2", "P3"].map((id) => ({ id }));
function opened(lines: object[] = []) {
	const keep = vi.fn();
	const draft = { spots, lines } as unknown as GroundRecord;
	show(<Lines job={JOB} draft={draft} keep={keep} fault={undefined} />);
	return keep;
}
const field = () => screen.getByRole<HTMLInputElement>("textbox", { name: "Through the readings" });

it("a line runs through readings that are there, told in any way", async () => {
	const user = person();
	const keep = opened([{ kind: "swale", spots: ["P2", "P3"] }]);
	await user.type(field(), "P1, P2;P3");
	await user.click(screen.getByRole("button", { name: "Draw the line" }));
	expect(keep.mock.calls[0]?.[0].lines).toEqual([
		{ kind: "swale", spots: ["P2", "P3"] },
		{ kind: "kerb", spots: ["P1", "P2", "P3"] },
	]);
	expect(field().value).toBe("");
});

it("a reading that is not there and a line through one are refused in words, and what was typed stays", async () => {
	const user = person();
	const keep = opened();
	for (const [typed, said] of [
		["P1 P9", "There is no reading P9. Read it first, or leave it out of the line."],
		["P1", "A line runs through at least two readings: type their names, P1 P2 P3."],
	] as const) {
		await user.clear(field());
		await user.type(field(), typed);
		await user.click(screen.getByRole("button", { name: "Draw the line" }));
		expect(await screen.findByText(said)).toBeTruthy();
		expect(field().value).toBe(typed);
	}
	expect(keep).not.toHaveBeenCalled();
});

it("a line half typed is there again after another bench, and the strip does not say that all is kept", async () => {
	opened();
	await person().type(field(), "P1 P2");
	expect(standing()).not.toBe("kept");
	cleanup();
	opened();
	expect(field().value).toBe("P1 P2");
});
