import { screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, person, serve, show } from "../testing";
import { useDraft } from "./draft/useDraft";
import { nextId, rowsOf } from "./rows";

interface Row {
	id: string;
	name: string;
	pictures?: string[];
}
interface Kept {
	source: string;
	rows?: Row[];
}

/** A list as a bench has it, with something that takes its time. */
function List({ kept, slow, saved }: { kept: Kept; slow: Promise<string>; saved: Kept[] }) {
	const editing = useDraft<Kept>(JOB, "rows", { value: kept, rev: 1 }, async (_base, body) => {
		saved.push(body);
		return { rev: 1 + saved.length, body };
	});
	const list = rowsOf<Kept, "rows", Row>(editing, "rows");
	return (
		<>
			{list.rows.map((r) => (
				<input
					key={r.id}
					aria-label={r.id}
					{...{ ...list.text(r, "name"), error: undefined }}
					onChange={(e) => list.text(r, "name").onChange(e.target.value)}
				/>
			))}
			<button
				type="button"
				onClick={() => void slow.then((p) => list.set("R1", (now) => ({ pictures: [...(now.pictures ?? []), p] }), true))}
			>
				Picture
			</button>
			<button type="button" onClick={() => void slow.then((name) => list.add((all) => ({ id: nextId("R", all), name })))}>
				Instrument
			</button>
			<button type="button" onClick={() => void slow.then((source) => editing.keep((now) => ({ ...now, source })))}>
				Office
			</button>
			<button
				type="button"
				onClick={() => {
					list.add((all) => ({ id: nextId("R", all), name: "one" }));
					list.add((all) => ({ id: nextId("R", all), name: "two" }));
					list.set("R1", { name: "first" }, true);
				}}
			>
				Breath
			</button>
		</>
	);
}

const opened = (kept: Kept) => {
	serve({});
	const saved: Kept[] = [];
	let answer: (x: string) => void = () => undefined;
	const slow = new Promise<string>((r) => {
		answer = r;
	});
	show(<List kept={kept} slow={slow} saved={saved} />);
	return { saved, answer: (x: string) => answer(x) };
};

it.each([
	["Picture", (k: Kept) => expect(k.rows?.[0]?.pictures).toEqual(["came"])],
	["Instrument", (k: Kept) => expect(k.rows?.map((r) => r.name)).toEqual(["a leak", "came"])],
	["Office", (k: Kept) => expect(k.source).toBe("came")],
] as const)("what was typed while something was waited for is in what is kept with it: %s", async (button, check) => {
	const user = person();
	const { saved, answer } = opened({ source: "", rows: [{ id: "R1", name: "a" }] });
	await user.click(await screen.findByRole("button", { name: button }));
	await user.type(screen.getByLabelText("R1"), " leak");
	answer("came");
	await waitFor(() => expect(saved.length).toBeGreaterThan(0));
	expect(saved.at(-1)?.rows?.[0]?.name).toBe("a leak");
	check(saved.at(-1) as Kept);
});

it("a row that came meanwhile is not overwritten by one with the same name", async () => {
	const user = person();
	const { saved, answer } = opened({ source: "", rows: [{ id: "R1", name: "a" }] });
	await user.click(await screen.findByRole("button", { name: "Instrument" }));
	await user.click(screen.getByRole("button", { name: "Breath" }));
	answer("read");
	await waitFor(() => expect(saved.at(-1)?.rows).toHaveLength(4));
	expect(saved.at(-1)?.rows?.map((r) => [r.id, r.name])).toEqual([
		["R1", "first"],
		["R2", "one"],
		["R3", "two"],
		["R4", "read"],
	]);
});
