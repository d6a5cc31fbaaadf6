import { screen, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import type { RoofRecord } from "../../api/queries";
import { Standing } from "../../app/Standing";
import { JOB, person, serve, show } from "../../testing";
import { GoingUp } from "./GoingUp";

const access = (decision: string, more = {}) => ({
	decision,
	words: decision === "walk" ? "Walk it" : "Stay off",
	reasons: decision === "walk" ? [] : [{ why: "Wet, and steeper than 6 in 12" }],
	cautions: ["Tie the ladder off."],
	school: "Feet and eyes",
	ladder: null,
	tread: "",
	limitation: "",
	...more,
});
const account = (...masses: object[]) =>
	({
		masses: masses.map((a, i) => ({ id: "AB"[i], name: ["main roof", "wing"][i], access: a })),
	}) as unknown as Schemas["Account"];

function Held({ of, kept, start = {} }: { of: Schemas["Account"]; kept: RoofRecord[]; start?: object }) {
	const [draft, setDraft] = useState({ masses: [], ...start } as unknown as RoofRecord);
	const keep = (r: RoofRecord = draft) => {
		setDraft(r);
		kept.push(r);
	};
	return (
		<>
			<Standing />
			<GoingUp job={JOB} account={of} editing={{ draft, type: setDraft, keep, wrong: {} } as never} />
		</>
	);
}
function opened(of: Schemas["Account"], start: object = {}, units = "metric") {
	const kept: RoofRecord[] = [];
	serve({});
	return { kept, ...show(<Held of={of} kept={kept} start={start} />, { outlet: { units } }) };
}
const why = () => screen.queryByRole<HTMLTextAreaElement>("textbox", { name: /Going up all the same/ });

it("what is met is kept with a press and takes nothing else along", async () => {
	const user = person();
	const { kept } = opened(account(access("walk")), { going_up: { wet: true } });
	await user.click(await screen.findByRole("checkbox", { name: "Moss or algae underfoot" }));
	expect(kept.at(-1)?.going_up).toEqual({ wet: true, mossy: true });
	await user.click(screen.getByRole("checkbox", { name: "Wet or dewy" }));
	expect(kept.at(-1)?.going_up).toEqual({ wet: false, mossy: true });
});

it("how far a person keeps from a line is said in the reader's units", async () => {
	for (const [units, said] of [
		["metric", "Lines overhead within 3 m"],
		["us", "Lines overhead within 10 ft"],
	] as const) {
		const { unmount } = opened(account(access("walk")), {}, units);
		expect(await screen.findByRole("checkbox", { name: said })).toBeTruthy();
		unmount();
	}
});

it("each roof says its own answer, danger is a word, and a caution is said once", async () => {
	opened(account(access("walk"), access("stay-off", { limitation: "The wing was seen from the eave only." })));
	const of = async (name: string) => within(await screen.findByRole("region", { name: `Going up on the ${name}` }));
	expect((await of("main roof")).getByText("Nothing that was said speaks against it.")).toBeTruthy();
	const wing = await of("wing");
	expect(wing.getByRole("heading").textContent).toBe("Wing: Hazard · stay off");
	expect(wing.getByText("Wet, and steeper than 6 in 12")).toBeTruthy();
	expect(wing.getByText("The wing was seen from the eave only.", { exact: false })).toBeTruthy();
	expect(screen.getAllByText("Tie the ladder off.")).toHaveLength(1);
});

it("nobody is asked for a reason where nothing speaks against it", async () => {
	opened(account(access("walk")));
	await screen.findByRole("region", { name: "Going up on the main roof" });
	expect(why()).toBeNull();
});

it("going up against the advice wants a reason, which is printed; the advice can be followed again", async () => {
	const user = person();
	const { kept } = opened(account(access("stay-off")));
	await screen.findByRole("region", { name: "Going up on the main roof" });
	const print = screen.getByRole<HTMLButtonElement>("button", { name: "Print this reason" });
	expect(print.disabled).toBe(true);
	await user.type(why() as HTMLElement, "   ");
	expect(print.disabled).toBe(true);
	await user.type(why() as HTMLElement, "Two anchors, a roofer beside me");
	expect(kept).toEqual([]);
	await user.click(print);
	expect(kept.at(-1)?.going_up?.overruled?.trim()).toBe("Two anchors, a roofer beside me");
	await user.click(screen.getByRole("button", { name: "Follow the advice" }));
	expect(kept.at(-1)?.going_up?.overruled).toBe("");
	expect(why()?.value).toBe("");
});

it("a reason that is typed and not printed yet stays when another bench is looked at, and the strip says that it is not kept", async () => {
	const user = person();
	const { unmount } = opened(account(access("stay-off")));
	await screen.findByRole("region", { name: "Going up on the main roof" });
	expect(screen.getByRole("status").textContent).toBe("All kept");
	await user.type(why() as HTMLElement, "Owner insists");
	expect(screen.getByRole("status").textContent).toBe("Not kept: see the field");
	unmount();
	const { kept } = opened(account(access("stay-off")));
	await screen.findByRole("region", { name: "Going up on the main roof" });
	expect(why()?.value).toBe("Owner insists");
	await user.click(screen.getByRole("button", { name: "Print this reason" }));
	expect(kept.at(-1)?.going_up?.overruled).toBe("Owner insists");
	expect(screen.getByRole("status").textContent).toBe("All kept");
});

it("a reason stays in sight when nothing speaks against going up any more, so that it can be printed or taken out", async () => {
	const user = person();
	const { unmount } = opened(account(access("stay-off")));
	await screen.findByRole("region", { name: "Going up on the main roof" });
	await user.type(why() as HTMLElement, "Dry by noon");
	unmount();
	opened(account(access("walk")));
	await screen.findByRole("region", { name: "Going up on the main roof" });
	expect(why()?.value).toBe("Dry by noon");
	expect(screen.getByRole("status").textContent).toBe("Not kept: see the field");
	await user.clear(why() as HTMLElement);
	expect(screen.getByRole("status").textContent).toBe("All kept");
	expect(why()).toBeNull();
});
