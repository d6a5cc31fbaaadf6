import { cleanup, screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import type { JobView, Note } from "../../api/queries";
import { JOB, person, type Sent, serve, show } from "../../testing";
import { Gutter } from "./Gutter";
import type { RainPage } from "./kinds";

type Record = Schemas["GutterRecord"];

const bare = {
	id: "G3",
	name: "over the door",
	eave: "A.+v",
	round: [],
	form: "half-round",
	width: "125 mm",
	inside: "clean",
	levels: "0 0",
	outlets: [{ from_left: "0 m", bore: "75 mm", strainer: false, up: "", ends: "ground", distance: "0.3 m", onto: "" }],
} as unknown as Record;

const page = {
	account: {
		eaves: [
			{ key: "A.+v", label: "rear eave", face: "rear", gutter: "G3" },
			{ key: "B.-v", label: "front eave of the porch", face: "front" },
		],
	},
} as unknown as RainPage;

const view = { job: { id: JOB }, units: "metric" } as unknown as JobView;

interface HeldProps {
	kept: Record[];
	wrong?: { [field: string]: string };
	remedies?: Schemas["Remedy"][];
}

/** The bench with what is typed in it, as its page holds it. */
function Held({ kept, wrong = {}, remedies }: HeldProps) {
	const [gutter, setGutter] = useState(bare);
	return (
		<Gutter
			view={view}
			page={page}
			gutter={gutter}
			account={undefined}
			section={undefined}
			remedies={remedies}
			wrong={wrong}
			set={(part, now) => {
				const next = { ...gutter, ...part };
				setGutter(next);
				if (now) kept.push(next);
			}}
			keep={() => kept.push(gutter)}
			remove={() => kept.push({ ...bare, id: "" })}
		/>
	);
}

const outlet = (kept: Record[], k = 0) => kept.at(-1)?.outlets?.[k];

it("an outlet lets go at the ground so far from the wall, or its water comes to an eave that is named", async () => {
	const user = person();
	const kept: Record[] = [];
	show(<Held kept={kept} />);
	await user.click(await screen.findByRole("button", { name: "Change" }));
	const far = screen.getByRole("textbox", { name: "Lets go so far from the wall" });
	await user.clear(far);
	await user.type(far, "6 ft");
	await user.tab();
	expect(outlet(kept)?.distance).toBe("6 ft");
	await user.click(screen.getByRole("button", { name: /Ends$/ }));
	await user.click(await screen.findByRole("option", { name: /roof/i }));
	expect(outlet(kept)?.ends).toBe("lower-roof");
	expect(screen.queryByRole("textbox", { name: "Lets go so far from the wall" })).toBeNull();
	await user.click(screen.getByRole("button", { name: /Its water comes to$/ }));
	// Its own eave is none its water can come to.
	expect((await screen.findAllByRole("option")).map((o) => o.textContent)).toEqual([
		"Found from the shape",
		"front eave of the porch",
	]);
	await user.click(screen.getByRole("option", { name: "front eave of the porch" }));
	expect(outlet(kept)?.onto).toBe("B.-v");
	// What was typed before is not lost by it.
	expect(outlet(kept)?.distance).toBe("6 ft");
});

it("what is wrong stands beside its field, and one outlet is taken away without the other", async () => {
	const user = person();
	const kept: Record[] = [];
	const wrong = { "gutters.G3.outlets.1.bore": "Type a bore such as 75 mm.", "gutters.G3.width": "Type a width." };
	show(<Held kept={kept} wrong={wrong} />);
	await user.click(await screen.findByRole("button", { name: "Change" }));
	await user.click(screen.getByRole("button", { name: "Add an outlet" }));
	expect(kept.at(-1)?.outlets).toHaveLength(2);
	const bores = screen.getAllByRole("textbox", { name: /^Bore/ });
	expect(bores.map((b) => b.getAttribute("aria-invalid"))).toEqual([null, "true"]);
	expect(screen.getByText("Type a bore such as 75 mm.")).toBeTruthy();
	// A half round asks for no depth; one that is wrong all the same stands there to be put right.
	expect(screen.queryByRole("textbox", { name: /^Depth/ })).toBeNull();
	cleanup();
	show(<Held kept={kept} wrong={{ "gutters.G3.depth": "Type a depth." }} />);
	await user.click(await screen.findByRole("button", { name: "Change" }));
	expect(screen.getByRole("textbox", { name: /^Depth/ }).getAttribute("aria-invalid")).toBe("true");
	expect(screen.getByRole("textbox", { name: /^Width/ }).getAttribute("aria-invalid")).toBeNull();
	cleanup();
	show(<Held kept={kept} />);
	await user.click(await screen.findByRole("button", { name: "Change" }));
	await user.click(screen.getByRole("button", { name: "Add an outlet" }));
	await user.click(screen.getAllByRole("button", { name: "Take this outlet away" })[1] as HTMLElement);
	expect(kept.at(-1)?.outlets).toEqual(bare.outlets);
});

it("a change that was tried is kept as a recommendation at the gutter's own face, once for each press", async () => {
	const user = person();
	const sent: Sent[] = serve({ [`PUT /jobs/${JOB}/notes/*`]: (body) => ({ rev: 1, ...(body as object) }) });
	const remedies = [
		{ change: "clean", words: "Clean it", cost: 60, ends_it: true, sentence: "Before: spills. After: does not." },
		{
			change: "next-size",
			words: "Hang the next size up",
			cost: 640,
			ends_it: false,
			sentence: "Before: spills. After: spills less.",
		},
	] as unknown as Schemas["Remedy"][];
	show(<Held kept={[]} remedies={remedies} />);
	const list = await screen.findByRole("list", { name: "What would end it" });
	const [first, second] = within(list).getAllByRole("listitem") as [HTMLElement, HTMLElement];
	expect(first.textContent).toContain("about 60 (estimate)");
	expect(first.textContent).not.toContain("does not end it");
	expect(second.textContent).toContain("does not end it");
	await user.click(within(first).getByRole("button", { name: "Keep as recommendation" }));
	await waitFor(() => expect(sent.filter((s) => s.to.includes("/notes"))).toHaveLength(1));
	const { body: note } = sent.filter((s) => s.to.includes("/notes")).map((s) => s.body)[0] as { body: Note };
	expect(note.place).toEqual({ face: "rear", zone: "edge", station: "G3" });
	expect(note.text).toBe("G3: clean it. Before: spills. After: does not.");
	// It stands in the account now.
	expect((await screen.findByRole("status")).textContent).toBe("Kept as a recommendation.");
});
