import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { Clashes } from "../../parts/draft/Clashes";
import { useDraft } from "../../parts/draft/useDraft";
import { JOB, type Person, person, serve, show } from "../../testing";
import type { GroundPage, GroundRecord } from "./kinds";
import { Nearby } from "./Nearby";

const at = { mass: "", face: "front", along: "1 m", out: "3 m" };
const faces = ["A", "B"].flatMap((mass) => ["front", "rear"].map((face) => ({ mass, face })));
const page = { account: { nearby: [{ id: "N1", sentence: "N1 stands too near." }], faces } } as unknown as GroundPage;

interface HeldProps {
	start: object;
	kept: GroundRecord[];
	refuse: { [field: string]: string } | undefined;
}
function Held({ start, kept, refuse }: HeldProps) {
	const editing = useDraft<GroundRecord>(JOB, "ground", { value: start as GroundRecord, rev: 1 }, async (_base, body) => {
		if (refuse) throw Object.assign(new Error(Object.values(refuse)[0]), { code: "invalid", field: Object.keys(refuse)[0] });
		kept.push(body);
		return { rev: 1 + kept.length, body };
	});
	return (
		<>
			<Clashes draft={editing} what="The ground" />
			<Nearby page={page} fields={editing} />
		</>
	);
}
function opened(start: object, { units = "metric", refuse = undefined as HeldProps["refuse"] } = {}) {
	serve({});
	const kept: GroundRecord[] = [];
	show(<Held {...{ start, kept, refuse }} />, { outlet: { units } });
	return { user: person(), kept };
}
const retype = async (user: Person, box: HTMLElement, text: string) => {
	await user.clear(box);
	await user.type(box, text);
	await user.tab();
};

it("what is nearby is asked for what matters of its kind, and its figures in the reader's unit", async () => {
	const { user, kept } = opened({ nearby: [{ id: "N1", kind: "trunk", at }] }, { units: "us" });
	expect(screen.getByText("N1 stands too near.")).toBeTruthy();
	expect(screen.getByRole("textbox", { name: "Height when grown" })).toBeTruthy();
	await user.click(screen.getByRole("button", { name: /^Trunk What/ }));
	await user.click(await screen.findByRole("option", { name: "Spray head" }));
	expect(screen.queryByRole("textbox", { name: "Height when grown" })).toBeNull();
	await retype(user, await screen.findByRole("textbox", { name: "Its flow: 2 gpm" }), "3 gpm");
	await retype(user, screen.getByRole("textbox", { name: "Minutes at a time" }), "20");
	await waitFor(() =>
		expect(kept.at(-1)?.nearby).toEqual([{ id: "N1", kind: "spray-head", at, flow_l_min: "3 gpm", minutes: "20" }]),
	);
	await user.click(screen.getByRole("button", { name: "Add something nearby" }));
	await waitFor(() => expect(kept.at(-1)?.nearby?.[1]).toMatchObject({ id: "N2", at: { along: "3 ft", out: "10 ft" } }));
	await user.click(screen.getByRole("button", { name: "Take N1 away" }));
	await waitFor(() => expect(kept.at(-1)?.nearby?.map((n) => n.id)).toEqual(["N2"]));
});

it("where a cladding ends is kept for its own mass and face; one that names no mass is of the first", async () => {
	const { user, kept } = opened({
		cladding: [
			{ mass: "", face: "rear", bottom: "-120 mm" },
			{ mass: "B", face: "rear", bottom: "-80 mm" },
		],
	});
	const of = (name: string) => screen.getByRole<HTMLInputElement>("textbox", { name });
	expect([of("Rear of A").value, of("Rear of B").value, of("Front of A").value]).toEqual(["-120 mm", "-80 mm", ""]);
	await retype(user, of("Rear of A"), "-6 in");
	await waitFor(() =>
		expect(kept.at(-1)?.cladding).toEqual([
			{ mass: "B", face: "rear", bottom: "-80 mm" },
			{ mass: "A", face: "rear", bottom: "-6 in" },
		]),
	);
	await user.clear(of("Rear of B"));
	await user.tab();
	await waitFor(() => expect(kept.at(-1)?.cladding).toEqual([{ mass: "A", face: "rear", bottom: "-6 in" }]));
});

it("an edge that is no height says so at its field and at the head of the bench, and stays as it was typed", async () => {
	const { user, kept } = opened(
		{ cladding: [] },
		{ refuse: { "cladding.B.front": "The lower edge: type a height such as -120 mm." } },
	);
	const box = screen.getByRole<HTMLInputElement>("textbox", { name: "Front of B" });
	await retype(user, box, "low");
	expect(await screen.findByText("Not kept: The lower edge: type a height such as -120 mm.")).toBeTruthy();
	expect(screen.getByText("The lower edge: type a height such as -120 mm.")).toBeTruthy();
	const marked = within(screen.getByRole("region", { name: "Nearby" }))
		.getAllByRole<HTMLInputElement>("textbox")
		.filter((b) => b.getAttribute("aria-invalid") === "true");
	expect(marked).toEqual([box]);
	expect(box.value).toBe("low");
	expect(kept).toEqual([]);
});
