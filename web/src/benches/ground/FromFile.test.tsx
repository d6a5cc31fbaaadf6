import { screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import { JOB, json, type Person, person, serve, show } from "../../testing";
import { FromFile } from "./FromFile";
import type { GroundRecord } from "./kinds";

const spot = (id: string, height: string) => ({
	id,
	at: { mass: "", face: null, along: "1 m", out: "2 m" },
	height,
	top: "soil",
	how: "typed",
});
const READ = {
	words: "2 readings, 1 row cannot be read.",
	spots: [spot("P1", "-0.1 m"), spot("P9", "-0.2 m")],
	bad: [{ line: 4, message: "“wet” is no height." }],
	columns: ["x", "y", "z"],
	taken: { along: "x", out: "y", height: "z" },
};

function Held({ kept }: { kept: GroundRecord[] }) {
	const [draft, setDraft] = useState({ spots: [spot("P1", "0"), spot("R1", "0")] } as unknown as GroundRecord);
	const keep = (g: GroundRecord = draft) => {
		setDraft(g);
		kept.push(g);
	};
	return <FromFile job={JOB} draft={draft} keep={keep} />;
}
function opened(answer: (ask: URLSearchParams) => unknown, units = "metric") {
	const kept: GroundRecord[] = [];
	const asked: { [k: string]: string }[] = [];
	serve({
		[`POST /jobs/${JOB}/ground/readings`]: (_, r) => {
			const how = new URL(r.url).searchParams;
			asked.push(Object.fromEntries(how));
			return answer(how);
		},
	});
	show(<Held kept={kept} />, { outlet: { units } });
	return { kept, asked };
}
const choose = async (user: Person, name: string) =>
	user.upload(await screen.findByLabelText("Readings file"), new File(["x"], name));

it("what is read is shown with every bad row before anything is kept, and can be dropped", async () => {
	const user = person({ applyAccept: false });
	const { kept } = opened(() => READ);
	await choose(user, "yard.csv");
	expect((await screen.findByRole("status")).textContent).toBe(READ.words);
	const bad = within(screen.getByRole("list", { name: "Rows that cannot be read" }));
	expect(bad.getByRole("listitem").textContent).toBe("Line 4: “wet” is no height.");
	expect(screen.getByText("P9: 1 m along, 2 m out, -0.2 m")).toBeTruthy();
	await user.click(screen.getByRole("button", { name: "Drop them" }));
	expect(screen.queryByRole("status")).toBeNull();
	expect(kept).toEqual([]);
});

it("readings join those that are there; a name that is taken gets a free one, and none is lost", async () => {
	const user = person({ applyAccept: false });
	const { kept } = opened(() => READ);
	await choose(user, "yard.csv");
	await user.click(await screen.findByRole("button", { name: "Keep these 2 readings" }));
	expect(kept).toHaveLength(1);
	expect(kept[0]?.spots?.map((s) => [s.id, s.height])).toEqual([
		["P1", "0"],
		["R1", "0"],
		["R2", "-0.1 m"],
		["P9", "-0.2 m"],
	]);
	expect(screen.queryByRole("status")).toBeNull();
});

it("bare numbers are taken in the reader's unit unless somebody says another, and the file is read again", async () => {
	const user = person({ applyAccept: false });
	const { asked } = opened(() => READ, "us");
	await choose(user, "yard.geojson");
	await waitFor(() => expect(asked).toEqual([{ form: "geojson", unit: "ft" }]));
	await user.click(await screen.findByRole("button", { name: /Bare numbers are/ }));
	await user.click(await screen.findByRole("option", { name: "Inches" }));
	await waitFor(() => expect(asked.at(-1)).toEqual({ form: "geojson", unit: "in" }));
});

it("with more columns than it takes, which is which is said, and every choice holds for the next reading", async () => {
	const user = person({ applyAccept: false });
	const { asked } = opened((how) => ({
		...READ,
		columns: ["x", "y", "z", "check"],
		taken: { along: "x", out: "y", height: how.get("height") ?? "z" },
	}));
	await choose(user, "yard.csv");
	await user.click(await screen.findByRole("button", { name: /^z Height|Height/ }));
	await user.click(await screen.findByRole("option", { name: "check" }));
	await waitFor(() => expect(asked.at(-1)).toEqual({ form: "csv", unit: "m", height: "check" }));
	await user.click(await screen.findByRole("button", { name: /Bare numbers are/ }));
	await user.click(await screen.findByRole("option", { name: "Feet" }));
	await waitFor(() => expect(asked.at(-1)).toEqual({ form: "csv", unit: "ft", height: "check" }));
});

it("a file that is none says why, keeps nothing, and the next one is read", async () => {
	const user = person({ applyAccept: false });
	let good = false;
	const { kept } = opened(() => (good ? READ : json({ code: "invalid", message: "This is no table of readings." }, 422)));
	await choose(user, "photo.csv");
	expect((await screen.findByRole("alert")).textContent).toBe("This is no table of readings.");
	expect(screen.queryByRole("button", { name: /Keep these/ })).toBeNull();
	good = true;
	await choose(user, "yard.csv");
	expect(await screen.findByRole("button", { name: "Keep these 2 readings" })).toBeTruthy();
	expect(screen.queryByRole("alert")).toBeNull();
	expect(kept).toEqual([]);
});
