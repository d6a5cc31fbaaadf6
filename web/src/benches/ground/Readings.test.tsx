import { screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { JOB, json, person, serve, show } from "../../testing";
import type { GroundPage, GroundRecord } from "./kinds";
import { Readings } from "./Readings";

const at = (along: string, out: string) => ({ face: "front", mass: "A", along, out });
const spot = (id: string, along: string, out: string, height: string) => ({
	id,
	at: at(along, out),
	height,
	top: "soil",
	how: "typed",
});

const page = {
	account: { transects: [{ mass: "A" }], readings: [{ id: "P1", z_m: -0.15 }], book_says: "", lines: [], book: [] },
} as unknown as GroundPage;

/** The bench with what is typed in it, as its page holds it. */
function Held({ start, kept, wrong = {} }: { start: object; kept: GroundRecord[]; wrong?: Record<string, string> }) {
	const [draft, setDraft] = useState(start as GroundRecord);
	const [chosen, choose] = useState<string | null>("P1");
	const keep = (g: GroundRecord = draft) => {
		setDraft(g);
		kept.push(g);
	};
	return <Readings job={JOB} page={page} fields={{ draft, type: setDraft, keep, wrong }} chosen={chosen} onChoose={choose} />;
}

function opened(start: object, wrong: Record<string, string> = {}) {
	const kept: GroundRecord[] = [];
	show(<Held start={start} kept={kept} wrong={wrong} />, { outlet: { units: "metric" } });
	return kept;
}

it("the next reading stands two feet farther out in the unit that was typed, and takes the ground it stands on along", async () => {
	const user = person();
	for (const [out, next] of [
		["0 m", "0.60 m"],
		["4 ft", "6 ft"],
		["1.5", "2.10 m"],
		// No plain figure: left as it is rather than guessed at.
		["6 1/2 in", "6 1/2 in"],
	]) {
		const kept = opened({ spots: [{ ...spot("P1", "2 m", out as string, "-0.1 m"), top: "paving" }] });
		await user.click((await screen.findAllByRole("button", { name: "Add a reading" })).at(-1) as HTMLElement);
		const added = kept.at(-1)?.spots?.at(-1);
		expect(added, out).toMatchObject({ id: "P2", at: { along: "2 m", out: next }, top: "paving", height: "-0.1 m" });
	}
});

it("a height is typed at its own reading and at no other; what is wrong with it stands beside it", async () => {
	const user = person();
	const spots = [spot("P1", "1 m", "0 m", "-0.1 m"), spot("P2", "1 m", "2 m", "-0.2 m")];
	const kept = opened({ spots }, { "spots.P2.height": "Type a height such as -150 mm." });
	const table = within(await screen.findByRole("table", { name: "Readings" }));
	await user.click(table.getByRole("button", { name: "P2" }));
	const height = screen.getByRole<HTMLInputElement>("textbox", { name: "Height above the floor" });
	expect(height.value).toBe("-0.2 m");
	expect(height.getAttribute("aria-invalid")).toBe("true");
	await user.clear(height);
	await user.type(height, "-9 in");
	await user.tab();
	expect(kept.at(-1)?.spots?.map((s) => s.height)).toEqual(["-0.1 m", "-9 in"]);
	await user.click(table.getByRole("button", { name: "P1" }));
	expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Height above the floor" }).value).toBe("-0.1 m");
});

it("the level book grows by lines, and only its last line is taken away", async () => {
	const user = person();
	const kept = opened({ spots: [], book: { start: "0", lines: [{ point: "floor", back: "1.2", between: "", fore: "" }] } });
	await user.click(await screen.findByRole("button", { name: "Open the book" }));
	await user.click(screen.getByRole("button", { name: "Add a line" }));
	await user.type(screen.getByRole("textbox", { name: "Line 2: point" }), "P1");
	await user.type(screen.getAllByRole("textbox", { name: "Between" })[1] as HTMLElement, "1.35");
	await user.tab();
	expect(kept.at(-1)?.book?.lines?.map((l) => [l.point, l.back, l.between])).toEqual([
		["floor", "1.2", ""],
		["P1", "", "1.35"],
	]);
	await user.click(screen.getByRole("button", { name: "Take the last line away" }));
	expect(kept.at(-1)?.book?.lines?.map((l) => l.point)).toEqual(["floor"]);
});

it("a file is looked at before it is taken; its readings never take a name that is there", async () => {
	const user = person();
	serve({
		[`POST /jobs/${JOB}/ground/readings`]: () => ({
			columns: ["a", "b", "c"],
			spots: [spot("P1", "3 m", "1 m", "-0.3 m"), spot("Q7", "4 m", "1 m", "-0.4 m")],
			taken: { along: "a", out: "b", height: "c" },
			bad: [{ line: 4, message: "“tree” is no length." }],
			words: "2 readings, 1 row cannot be read.",
		}),
	});
	const kept = opened({ spots: [spot("P1", "1 m", "0 m", "-0.1 m")] });
	const input = await waitFor(
		() => document.querySelector<HTMLInputElement>('input[aria-label="Readings file"]') as HTMLInputElement,
	);
	await user.upload(input, new File(["a,b,c\n1,2,3\n"], "yard.csv", { type: "text/csv" }));
	const take = await screen.findByRole("button", { name: "Keep these 2 readings" });
	expect(screen.getByRole("list", { name: "Rows that cannot be read" }).textContent).toContain("Line 4: “tree” is no length.");
	expect(kept).toEqual([]);
	await user.click(take);
	const names = kept.at(-1)?.spots?.map((s) => s.id) ?? [];
	expect(names[0]).toBe("P1");
	expect(new Set(names).size).toBe(3);
	expect(kept.at(-1)?.spots?.map((s) => s.height)).toEqual(["-0.1 m", "-0.3 m", "-0.4 m"]);
});

it("a file that cannot be read says why, and takes nothing", async () => {
	const user = person();
	serve({
		[`POST /jobs/${JOB}/ground/readings`]: () => json({ code: "invalid", message: "No column holds heights. Choose one." }, 422),
	});
	const kept = opened({ spots: [spot("P1", "1 m", "0 m", "-0.1 m")] });
	const input = await waitFor(
		() => document.querySelector<HTMLInputElement>('input[aria-label="Readings file"]') as HTMLInputElement,
	);
	await user.upload(input, new File(["x"], "yard.csv", { type: "text/csv" }));
	expect(await screen.findByText("No column holds heights. Choose one.")).toBeTruthy();
	expect(kept).toEqual([]);
});
