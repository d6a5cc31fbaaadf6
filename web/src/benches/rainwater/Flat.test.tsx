import { screen, waitFor, within } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import type { JobView } from "../../api/queries";
import { JOB, person, serve, show } from "../../testing";
import { Flat } from "./Flat";

type FlatRoof = Schemas["FlatRoof"];

const bare: FlatRoof = { mass: "B", parapets: { front: "300 mm" }, fall: "", toward: null, heights: [], outlets: [] };
const view = { job: { id: JOB }, units: "metric" } as unknown as JobView;

const account = (part: Partial<Schemas["FlatAccount"]>) =>
	({
		mass: "B",
		label: "flat roof of the shop",
		plan_m2: 54.9,
		from_above_m2: 0,
		sentence: "In 132 mm/h water stands 76 mm deep.",
		problem: null,
		outlets: [],
		offered: [],
		caution: "",
		...part,
	}) as unknown as Schemas["FlatAccount"];

interface HeldProps {
	kept: FlatRoof[];
	of?: Partial<Schemas["FlatAccount"]>;
	wrong?: Record<string, string>;
	begun?: boolean;
	remedies?: Schemas["RoofRemedy"][];
}

/** The bench with what is typed in it, as its page holds it. */
function Held({ kept, of = {}, wrong = {}, begun = true, remedies }: HeldProps) {
	const [flat, setFlat] = useState(bare);
	return (
		<Flat
			view={view}
			flat={flat}
			name="shop"
			begun={begun}
			account={account(of)}
			drawings={{ rain: "<svg></svg>", blocked: "<svg></svg>", after: null, hour: null }}
			eaves={[{ key: "C.-v#1", label: "front eave of the porch" } as Schemas["EaveAccount"]]}
			remedies={remedies}
			wrong={wrong}
			set={(part, now) => {
				const next = { ...flat, ...part };
				setFlat(next);
				if (now) kept.push(next);
			}}
			keep={() => kept.push(flat)}
			remove={() => kept.push({ ...bare, mass: "" })}
		/>
	);
}

it("a scupper is added at a parapet, sized and led to an eave; another kind starts afresh", async () => {
	const user = person();
	const kept: FlatRoof[] = [];
	show(<Held kept={kept} />);
	await user.click(screen.getByRole("button", { name: "Add a scupper" }));
	expect(kept.at(-1)?.outlets?.[0]).toMatchObject({ kind: "scupper", face: "front", size: "200 x 100 mm", ends: "ground" });
	const opening = screen.getByLabelText("Opening: width x height");
	await user.clear(opening);
	await user.type(opening, "12 x 4 in");
	await user.tab();
	expect(kept.at(-1)?.outlets?.[0]?.size).toBe("12 x 4 in");
	await user.click(screen.getByRole("checkbox", { name: "An overflow, for when others are blocked" }));
	expect(kept.at(-1)?.outlets?.[0]).toMatchObject({ overflow: true, size: "12 x 4 in" });
	await user.click(screen.getByRole("button", { name: "Add a drain" }));
	expect(kept.at(-1)?.outlets?.map((o) => o.kind)).toEqual(["scupper", "inner-drain"]);
	await user.click(screen.getByRole("button", { name: "Take outlet 1 away" }));
	expect(kept.at(-1)?.outlets?.map((o) => o.kind)).toEqual(["inner-drain"]);
});

it("parapets and heights are typed one beside the other, and nothing of the rest is lost", async () => {
	const user = person();
	const kept: FlatRoof[] = [];
	show(<Held kept={kept} wrong={{ "flats.B.fall": "Type a fall." }} />);
	await user.type(screen.getByLabelText("Rear parapet"), "10 in");
	await user.tab();
	expect(kept.at(-1)?.parapets).toEqual({ front: "300 mm", rear: "10 in" });
	await user.click(screen.getByRole("button", { name: "Add a height" }));
	const height = screen.getByLabelText("Above the edge");
	await user.clear(height);
	await user.type(height, "-12 mm");
	await user.tab();
	expect(kept.at(-1)?.heights).toEqual([{ from_left: "1 m", from_front: "1 m", height: "-12 mm" }]);
	expect(kept.at(-1)?.parapets).toEqual({ front: "300 mm", rear: "10 in" });
	expect(screen.getByText("Type a fall.")).toBeTruthy();
});

it("what is dangerous is said as a hazard, a blocked outlet is called so, and only states that are drawn can be chosen", async () => {
	const outlet = {
		name: "drain 1",
		l_min: 0,
		head_m: 0.02,
		sill_over_bottom_m: 0.01,
		ends: "in a pipe to daylight",
		blocked: true,
	};
	show(<Held kept={[]} begun={false} of={{ caution: "Ask an engineer.", outlets: [outlet as Schemas["RoofOutletAccount"]] }} />);
	expect(screen.getByText("Hazard.")).toBeTruthy();
	expect(within(screen.getByRole("row", { name: /Drain 1/ })).getByText("blocked")).toBeTruthy();
	expect(screen.getByText("Outlets blocked")).toBeTruthy();
	expect(screen.queryByText("After the rain")).toBeNull();
	// Closed, its fields are out of the way.
	expect(screen.queryByLabelText("Rear parapet")).toBeNull();
});

it("what would help is kept as a recommendation with its figures", async () => {
	const user = person();
	const sent = serve({ [`PUT /jobs/${JOB}/notes/*`]: (body) => ({ rev: 1, ...(body as object) }) });
	const remedy = {
		words: "A drain of 100 mm",
		sentence: "After rain 19 mm before, 2 mm after.",
		depth_mm: 1,
		stays_mm: 2,
		blocked_mm: 3,
	};
	show(<Held kept={[]} begun={false} remedies={[remedy]} />);
	await user.click(screen.getByRole("button", { name: "Keep as recommendation" }));
	await waitFor(() => expect(sent).toHaveLength(1));
	expect(JSON.stringify(sent[0]?.body)).toContain(
		"flat roof of the shop: a drain of 100 mm. After rain 19 mm before, 2 mm after.",
	);
});
