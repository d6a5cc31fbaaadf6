import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { FACES } from "../../parts/OnSurface";
import { nextId } from "../../parts/rows";
import { useShown } from "../../parts/units";
import type { GroundPage } from "./kinds";
import type { GroundFields } from "./spots";

type WayIn = Schemas["LowOpening"];
const KINDS = [
	{ id: "threshold", name: "Threshold" },
	{ id: "sill", name: "Sill" },
	{ id: "window-well", name: "Window well" },
	{ id: "vent", name: "Vent" },
];

/** Thresholds, sills, wells and vents: the storm says which of them water reaches. */
export function WaysIn({ page, fields }: { page: GroundPage; fields: GroundFields }) {
	const u = useShown();
	const { draft, type, keep, wrong } = fields;
	const all = draft.ways_in ?? [];
	const masses = [...new Set(page.account.faces.map((f) => f.mass))];
	const put = (next: WayIn[], now: boolean) => (now ? keep : type)({ ...draft, ways_in: next });
	const set = (id: string, part: Partial<WayIn>, now = false) =>
		put(
			all.map((w) => (w.id === id ? { ...w, ...part } : w)),
			now,
		);
	const text = (w: WayIn, part: "along" | "width" | "height", label: string) => (
		<Field
			label={label}
			value={w[part] ?? ""}
			onChange={(x) => set(w.id, { [part]: x })}
			onBlur={() => keep(draft)}
			error={wrong[`ways_in.${w.id}.${part}`]}
		/>
	);
	const add = () =>
		put(
			[
				...all,
				{
					id: nextId("W", all),
					kind: "threshold",
					mass: "",
					face: all.at(-1)?.face ?? "rear",
					along: u.start("1 m", "3 ft"),
					width: "",
					height: u.start("0 mm", "0 in"),
				},
			],
			true,
		);
	return (
		<section aria-label="Ways in">
			<Row $between>
				<h2>Ways in</h2>
				<PlainButton onPress={add}>Add a way in</PlainButton>
			</Row>
			{all.length === 0 && (
				<Soft>Thresholds, sills, window wells and vents with their heights: the storm says which ones water reaches.</Soft>
			)}
			<Stack $gap={14}>
				{all.map((w) => (
					<Stack key={w.id} $gap={2} role="group" aria-label={`Way in ${w.id}`}>
						<Columns>
							<Chooser
								label={`${w.id}: what it is`}
								choices={KINDS}
								value={w.kind}
								onChange={(k) => k && set(w.id, { kind: k as WayIn["kind"] }, true)}
							/>
							<Chooser
								label="Face"
								choices={FACES}
								value={w.face}
								onChange={(f) => f && set(w.id, { face: f as WayIn["face"] }, true)}
							/>
							{masses.length > 1 && (
								<Chooser
									label="Of the mass"
									choices={masses.map((m) => ({ id: m, name: m }))}
									value={w.mass || (masses[0] ?? "")}
									onChange={(mass) => mass && set(w.id, { mass }, true)}
								/>
							)}
							{text(w, "along", "From the left end to its middle")}
							{text(w, "width", "How wide")}
							{text(w, "height", "Its edge above the finished floor")}
						</Columns>
						<QuietButton
							onPress={() =>
								put(
									all.filter((o) => o.id !== w.id),
									true,
								)
							}
						>
							Take {w.id} away
						</QuietButton>
					</Stack>
				))}
			</Stack>
		</section>
	);
}
