import { screen, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobView, RoofRecord } from "../../api/queries";
import { JOB, person, serve, show } from "../../testing";
import { Measured } from "./Measured";
import type { Editing, Page } from "./useRoof";

const main = (more: object = {}) => ({
	id: "A",
	name: "main",
	length: "40 ft",
	depth: "26 ft",
	form: "hip",
	ridge: "across",
	pitch: { how: "typed", text: "6:12" },
	eave: "9 ft",
	overhang: "1 ft",
	covering: "slate",
	...more,
});

function bench(masses: object[]) {
	serve({ "GET /roof-choices": () => ({ coverings: [{ key: "slate", name: "slate" }] }) });
	const draft = { perimeter: "", masses, fittings: [] } as unknown as RoofRecord;
	const kept: RoofRecord[] = [];
	const editing = { draft, type: () => {}, keep: (r?: RoofRecord) => r && kept.push(r), wrong: {} } as unknown as Editing;
	const page = { roof: draft, account: { masses: [], perimeter: null }, perimeter: null } as unknown as Page;
	show(<Measured view={{ job: { id: JOB } } as unknown as JobView} page={page} editing={editing} />);
	return kept;
}

it("a dormer is put in the middle of the front slope, in the unit of its house", async () => {
	const user = person();
	const kept = bench([main()]);
	await user.click(screen.getByRole("button", { name: "Put a dormer on a slope" }));
	const dormer = kept[0]?.masses?.[1];
	expect(dormer).toMatchObject({ id: "B", length: "6 ft", eave: "14 ft", covering: "slate" });
	expect(dormer?.against).toMatchObject({ mass: "A", face: "front", from_left: "17.0 ft", inward: "3 ft", runs_on: true });
});

it("each form asks for what it needs and for nothing else", () => {
	bench([
		main({ form: "mansard", break_at: "15 ft", upper_pitch: "4:12" }),
		main({ id: "B", name: "barn", form: "half-hip", ends_from: "12 ft" }),
		main({ id: "C", name: "porch", form: "flat" }),
	]);
	const of = (name: string) => within(screen.getByRole("region", { name: new RegExp(name) }));
	expect((of("main").getByLabelText("Height at which its slopes break") as HTMLInputElement).value).toBe("15 ft");
	expect(of("main").queryByLabelText("Height its ends slope from")).toBeNull();
	expect(of("barn").getByLabelText("Height its ends slope from")).toBeTruthy();
	expect(of("barn").queryByLabelText("Pitch above the break: 4:12")).toBeNull();
	expect(of("porch").queryByText(/Sides that differ/)).toBeNull();
});

it("sides that differ are named before they are opened", () => {
	bench([main({ faces: { rear: { eave: "11 ft", pitch: "", overhang: "" }, left: { eave: "", pitch: "", overhang: "" } } })]);
	expect(screen.getByText("Sides that differ: rear")).toBeTruthy();
	expect((screen.getByLabelText("Rear: eave height") as HTMLInputElement).value).toBe("11 ft");
});
