import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import { nextId, type Rows, rowsOf } from "../../parts/rows";
import { type PartProps, slopesOf, type Visit } from "./Storm";

type WindRow = Schemas["WindKept"];
type TriedRow = Schemas["Tried"];
const PARTS = [
	{ id: "corner", name: "Corners" },
	{ id: "edge", name: "Edges" },
	{ id: "ridge", name: "Ridge and hips" },
	{ id: "field", name: "Field" },
];
const COUNTED = [
	["units", "Looked at"],
	["creased", "Creased"],
	["lifted", "Lifted"],
	["missing", "Gone"],
	["unsealed", "Unsealed, no crease"],
] as const;
const FELL = [
	{ id: "limb", name: "Limb or tree" },
	{ id: "ice", name: "Ice or snow" },
	{ id: "debris", name: "Flying debris" },
];
const NOT = [
	{ id: "foot", name: "Old foot damage" },
	{ id: "wear", name: "Wear" },
	{ id: "nailing", name: "Bad nailing" },
	{ id: "mend", name: "An old mend" },
	{ id: "other", name: "Something else" },
];
/** Wind by part of the slope, seals, lifting, what fell, and what is not from this storm. */
export function Wind({ page, editing }: PartProps) {
	const { account } = page;
	const slopes = slopesOf(page);
	const wind = rowsOf<Visit, "wind", WindRow>(editing, "wind");
	const seals = rowsOf<Visit, "seals", TriedRow>(editing, "seals");
	const lifts = rowsOf<Visit, "lifts", TriedRow>(editing, "lifts");
	const opened = rowsOf<Visit, "opened", Schemas["Opened"]>(editing, "opened");
	const others = rowsOf<Visit, "not_this", Schemas["NotThis"]>(editing, "not_this");
	const first = slopes[0]?.id ?? "";
	const w = account.wind;
	const words = (of: Schemas["RowOf"], id: string) => account.row_words.find((r) => r.of === of && r.id === id)?.words;
	return (
		<Stack $gap={10}>
			<h2>Wind</h2>
			{w?.contrast && <p>{w.contrast.words}</p>}
			{w?.creases && <p>{w.creases.words}</p>}
			{account.zone_words && <Soft>{account.zone_words} Unsealed without a crease is mostly age, and is not added.</Soft>}
			{wind.rows.map((row) => {
				const harmed = words("wind", row.id);
				return (
					<Stack key={row.id} $gap={2} role="group" aria-label={`Wind ${row.id}`}>
						<Columns>
							<Chooser
								label="Slope"
								choices={slopes}
								value={row.slope}
								onChange={(s) => s && wind.set(row.id, { slope: s }, true)}
							/>
							<Chooser
								label="Part of it"
								choices={PARTS}
								value={row.part}
								onChange={(p) => p && wind.set(row.id, { part: p as WindRow["part"] }, true)}
							/>
							{COUNTED.map(([field, label]) => (
								<NumberBox
									key={field}
									label={label}
									value={row[field] ?? 0}
									least={0}
									error={wind.wrong(row.id, field)}
									onChange={(n) => wind.set(row.id, { [field]: n ?? 0 }, true)}
								/>
							))}
							<NumberBox
								label="Creases say it blew from, degrees"
								value={row.from_deg ?? null}
								least={0}
								most={360}
								error={wind.wrong(row.id, "from_deg")}
								onChange={(n) => wind.set(row.id, { from_deg: n }, true)}
							/>
						</Columns>
						<Row $gap={8}>
							{harmed && <Soft>{harmed}</Soft>}
							{wind.wrong(row.id, "part") && <span role="alert">{wind.wrong(row.id, "part")}</span>}
							<QuietButton onPress={() => wind.remove(row.id)}>Take out</QuietButton>
						</Row>
					</Stack>
				);
			})}
			<Row>
				<PlainButton
					onPress={() =>
						wind.add({
							id: nextId("W", wind.rows),
							slope: wind.rows.at(-1)?.slope ?? first,
							part: (PARTS.find((p) => !wind.rows.some((r) => r.part === p.id && r.slope === (wind.rows.at(-1)?.slope ?? first)))
								?.id ?? "field") as WindRow["part"],
							units: 1,
							creased: 0,
							lifted: 0,
							missing: 0,
							unsealed: 0,
							from_deg: null,
						})
					}
				>
					Add a part of a slope
				</PlainButton>
			</Row>
			<TriedRows name="Seals tried by hand" failed="Came up" slopes={slopes} letter="S" list={seals}>
				{(id) => words("seals", id)}
			</TriedRows>
			<h2>Can it be mended?</h2>
			<TriedRows name="Units lifted to try a mend" failed="Broke" slopes={slopes} letter="L" list={lifts}>
				{(id) => account.mends.find((m) => m.id === id)?.words}
			</TriedRows>
			<Tick
				value={editing.draft.material_at_hand === true}
				onChange={(at) => editing.keep({ ...editing.draft, material_at_hand: at })}
			>
				Spare or matching material is at hand
			</Tick>
			<h2>What fell</h2>
			{opened.rows.map((row) => (
				<Columns key={row.id} role="group" aria-label={`Fell ${row.id}`}>
					<Chooser
						label="What fell"
						choices={FELL}
						value={row.what}
						onChange={(f) => f && opened.set(row.id, { what: f as Schemas["Fell"] }, true)}
					/>
					<Field label="Where" {...opened.text(row, "place")} />
					<Field label="What it opened" {...opened.text(row, "opened")} />
					<Row $gap={8}>
						<Tick value={row.covered ?? false} onChange={(covered) => opened.set(row.id, { covered }, true)}>
							Covered for now
						</Tick>
						<QuietButton onPress={() => opened.remove(row.id)}>Take out</QuietButton>
					</Row>
				</Columns>
			))}
			<Row>
				<PlainButton
					onPress={() =>
						opened.add({ id: nextId("O", opened.rows), what: "limb", place: "on the roof", opened: "", covered: false })
					}
				>
					Add what fell
				</PlainButton>
			</Row>
			<h2>Not from this storm</h2>
			{others.rows.map((row) => (
				<Columns key={row.id} role="group" aria-label={`Not this storm ${row.id}`}>
					<Chooser
						label="What it is"
						choices={NOT}
						value={row.what}
						onChange={(f) => f && others.set(row.id, { what: f as Schemas["NotFrom"] }, true)}
					/>
					<Field label="Where it is" {...others.text(row, "place")} />
					<Field label="Why it is not" {...others.text(row, "why")} />
					<NumberBox
						label="How many"
						value={row.count ?? 0}
						least={0}
						onChange={(n) => others.set(row.id, { count: n ?? 0 }, true)}
					/>
					<Row>
						<QuietButton onPress={() => others.remove(row.id)}>Take out</QuietButton>
					</Row>
				</Columns>
			))}
			<Row>
				<PlainButton
					onPress={() =>
						others.add({ id: nextId("N", others.rows), what: "foot", place: "", why: "older than the storm", count: 0 })
					}
				>
					Add what is not from it
				</PlainButton>
			</Row>
		</Stack>
	);
}

interface TriedProps {
	name: string;
	failed: string;
	slopes: { id: string; name: string }[];
	letter: string;
	list: Rows<TriedRow>;
	children: (id: string) => string | undefined;
}

/** So many tried, so many that came up or broke. */
function TriedRows({ name, failed, slopes, letter, list, children }: TriedProps) {
	return (
		<Stack $gap={4} role="group" aria-label={name}>
			<b>{name}</b>
			{list.rows.map((row) => (
				<Stack key={row.id} $gap={2}>
					<Columns>
						<Chooser
							label="Slope"
							choices={slopes}
							value={row.slope}
							onChange={(s) => s && list.set(row.id, { slope: s }, true)}
						/>
						<NumberBox
							label="Tried"
							value={row.tried}
							least={1}
							error={list.wrong(row.id, "tried")}
							onChange={(n) => list.set(row.id, { tried: n ?? 1 }, true)}
						/>
						<NumberBox
							label={failed}
							value={row.failed}
							least={0}
							error={list.wrong(row.id, "failed")}
							onChange={(n) => list.set(row.id, { failed: n ?? 0 }, true)}
						/>
					</Columns>
					<Row $gap={8}>
						<Soft>{children(row.id)}</Soft>
						<QuietButton onPress={() => list.remove(row.id)}>Take out</QuietButton>
					</Row>
				</Stack>
			))}
			<Row>
				<PlainButton
					onPress={() => list.add({ id: nextId(letter, list.rows), slope: slopes[0]?.id ?? "", tried: 10, failed: 0 })}
				>
					Add a trial
				</PlainButton>
			</Row>
		</Stack>
	);
}
