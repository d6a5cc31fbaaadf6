import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Beside, Columns, Row, Soft, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import { FACES } from "../../parts/OnSurface";
import { nextId, rowsOf } from "../../parts/rows";
import type { PartProps, Visit } from "./Storm";

type Metal = Schemas["SoftKept"];
const THINGS = [
	{ id: "gutter", name: "Gutter" },
	{ id: "downspout", name: "Downspout" },
	{ id: "vent", name: "Roof vent" },
	{ id: "cap", name: "Cap" },
	{ id: "screen", name: "Screen" },
	{ id: "frame", name: "Frame" },
	{ id: "fins", name: "Fins of a cooling unit" },
	{ id: "other", name: "Other" },
];
const LOOK = [
	{ id: "unknown", name: "Not to be told" },
	{ id: "fresh", name: "Fresh and bright" },
	{ id: "oxidised", name: "Oxidised" },
];

/** Soft metal and other things by face: what was looked at without a dent counts too. */
export function SoftMetal({ page, editing }: PartProps) {
	const list = rowsOf<Visit, "soft", Metal>(editing, "soft");
	return (
		<Stack $gap={8}>
			{page.soft && (
				<Beside>
					<Stack $gap={4}>
						<Drawing svg={page.soft} most="340px" />
						<Soft>Dents by face and height. Filled: fresh. A ring: oxidised. Nought: looked at, none found.</Soft>
					</Stack>
					<Stack $gap={4}>
						{page.account.soft.map((s) => (
							<p key={s.face}>{s.words}.</p>
						))}
					</Stack>
				</Beside>
			)}
			{list.rows.map((row) => (
				<Columns key={row.id} role="group" aria-label={`Soft metal ${row.id}`}>
					<Chooser
						label="Face"
						choices={FACES}
						value={row.face}
						onChange={(f) => f && list.set(row.id, { face: f as Metal["face"] }, true)}
					/>
					<Chooser
						label="What"
						choices={THINGS}
						value={row.what}
						onChange={(w) => w && list.set(row.id, { what: w as Metal["what"] }, true)}
					/>
					<NumberBox
						label="Dents"
						value={row.count}
						least={0}
						error={list.wrong(row.id, "count")}
						onChange={(n) => list.set(row.id, { count: n ?? 0 }, true)}
					/>
					<Field label="The largest" {...list.text(row, "largest")} />
					<Chooser
						label="They look"
						choices={LOOK}
						value={row.fresh ?? "unknown"}
						onChange={(f) => f && list.set(row.id, { fresh: f as Metal["fresh"] }, true)}
					/>
					<NumberBox
						label="Spatter from, degrees"
						value={row.spatter_from_deg ?? null}
						least={0}
						most={360}
						error={list.wrong(row.id, "spatter_from_deg")}
						onChange={(n) => list.set(row.id, { spatter_from_deg: n }, true)}
					/>
					<Row>
						<QuietButton onPress={() => list.remove(row.id)}>Take out</QuietButton>
					</Row>
				</Columns>
			))}
			<Row $gap={8}>
				<PlainButton
					onPress={() =>
						list.add({
							id: nextId("M", list.rows),
							face: list.rows.at(-1)?.face ?? "front",
							what: "gutter",
							count: 0,
							largest: "",
							fresh: "unknown",
							spatter_from_deg: null,
						})
					}
				>
					Add what was looked at
				</PlainButton>
				<Soft>Nothing found is a finding: leave the dents at nought.</Soft>
			</Row>
		</Stack>
	);
}
