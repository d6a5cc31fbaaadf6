import { screen, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { person, show } from "../../testing";
import type { GroundPage, GroundRecord } from "./kinds";
import { WaysIn } from "./WaysIn";

const page = (masses: string[]) => ({ account: { faces: masses.map((mass) => ({ mass })) } }) as unknown as GroundPage;

/** The bench with what is typed in it, as its page holds it. */
function Held({ masses, wrong, kept }: { masses: string[]; wrong: Record<string, string>; kept: GroundRecord[] }) {
	const [draft, setDraft] = useState({ ways_in: [] } as unknown as GroundRecord);
	const keep = (g: GroundRecord = draft) => {
		setDraft(g);
		kept.push(g);
	};
	return <WaysIn page={page(masses)} fields={{ draft, type: setDraft, keep, wrong }} />;
}

function bench(masses: string[], wrong: Record<string, string> = {}) {
	const kept: GroundRecord[] = [];
	show(<Held masses={masses} wrong={wrong} kept={kept} />, { outlet: { units: "metric" } });
	return kept;
}

it("a way in is added, given its height and taken away again", async () => {
	const user = person();
	const kept = bench(["A"]);
	await user.click(screen.getByRole("button", { name: "Add a way in" }));
	await user.click(screen.getByRole("button", { name: "Add a way in" }));
	expect(kept.at(-1)?.ways_in?.map((w) => w.id)).toEqual(["W1", "W2"]);
	const second = screen.getByRole("group", { name: "Way in W2" });
	// One mass: nobody is asked which.
	expect(within(second).queryByText("Of the mass")).toBeNull();
	const height = within(second).getByLabelText("Its edge above the finished floor");
	await user.clear(height);
	await user.type(height, "-40 mm");
	await user.tab();
	expect(kept.at(-1)?.ways_in?.map((w) => w.height)).toEqual(["0 mm", "-40 mm"]);
	await user.click(within(second).getByRole("button", { name: "Take W2 away" }));
	expect(kept.at(-1)?.ways_in?.map((w) => w.id)).toEqual(["W1"]);
});

it("where there are several masses it asks which, and what is wrong stands at its field", async () => {
	const user = person();
	bench(["A", "B", "A"], { "ways_in.W1.along": "Type a length." });
	await user.click(screen.getByRole("button", { name: "Add a way in" }));
	expect(screen.getByText("Of the mass")).toBeTruthy();
	expect(screen.getByText("Type a length.")).toBeTruthy();
});
