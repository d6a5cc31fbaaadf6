import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Columns, Folded, Row, Soft, Stack } from "../../design/layout";
import { hairline } from "../../design/tokens";
import type { Rows } from "../../parts/rows";
import { Table } from "../../parts/Table";
import { useShown } from "../../parts/units";
import { FACES, type FaceKey, nextId, type PartProps, rowsOf, type Walls } from "./kinds";

type Crack = Schemas["CrackRecord"];

const PATTERNS = [
	{ id: "stair-stepped", name: "Stair-stepped" },
	{ id: "diagonal", name: "Diagonal" },
	{ id: "vertical", name: "Vertical" },
	{ id: "horizontal", name: "Horizontal" },
	{ id: "map", name: "Like a map" },
	{ id: "corner-spall", name: "Spall at a corner" },
];
const EDGES = [
	{ id: "unknown", name: "Not looked at" },
	{ id: "fresh", name: "Fresh and sharp" },
	{ id: "painted", name: "Painted over or rounded" },
];
const ALONG = [
	{ id: "upper", name: "Upper or left end" },
	{ id: "middle", name: "Middle" },
	{ id: "lower", name: "Lower or right end" },
];
const SIGNS = [
	{ id: "door-binds", name: "A door or window binds" },
	{ id: "trim-opened", name: "Trim opened" },
];
const SPEAKS: { [s in Schemas["Speaks"]]: string } = { for: "for", against: "against", open: "·" };

const Faces = styled.div`display: grid; grid-template-columns: repeat(auto-fit, minmax(300px, 1fr)); gap: 10px 22px;`;
const One = styled(Stack)`border-bottom: ${hairline}; padding-bottom: 10px;`;

/** Cracks over time, other signs, floor heights, and what all of them together speak for. */
export function Cracks(props: PartProps) {
	const u = useShown();
	const { page, editing } = props;
	const { account } = page;
	const list = rowsOf<Walls, "cracks", Crack>(editing, "cracks");
	const cracks = list.rows;
	const add = () =>
		list.add({
			id: nextId("C", cracks),
			face: cracks.at(-1)?.face ?? "front",
			pattern: "diagonal",
			from_x: u.start("1 m", "3 ft"),
			from_z: u.start("1 m", "3 ft"),
			to_x: u.start("2 m", "6 ft"),
			to_z: u.start("2 m", "6 ft"),
			displaced: false,
			edges: "unknown",
			readings: [],
			text: "",
		});
	return (
		<>
			<Faces>
				{page.elevations.map((svg) => (
					<Drawing key={svg.slice(0, 200)} svg={svg} most="220px" />
				))}
			</Faces>
			{account.reader && (
				<>
					<p>{account.reader.sentence}</p>
					<Table aria-label="What each sign speaks for">
						<thead>
							<tr>
								<th>Sign</th>
								{account.reader.movements.map((m) => (
									<th key={m}>{m.replace(/^./, (x) => x.toUpperCase())}</th>
								))}
							</tr>
						</thead>
						<tbody>
							{account.reader.signs.map((s) => (
								<tr key={s.sign}>
									<td>
										{s.sign}
										<br />
										<Soft>{s.why}</Soft>
									</td>
									{s.speaks.map((x, i) => (
										<td key={account.reader?.movements[i]}>{x === "for" ? <b>{SPEAKS[x]}</b> : SPEAKS[x]}</td>
									))}
								</tr>
							))}
						</tbody>
					</Table>
					<ul aria-label="What to measure next">
						{account.reader.next.map((n) => (
							<li key={n}>{n}</li>
						))}
					</ul>
				</>
			)}
			<h2>Cracks</h2>
			{cracks.map((c) => (
				<OneCrack key={c.id} page={page} list={list} crack={c} />
			))}
			<Row>
				<PlainButton onPress={add}>Add a crack</PlainButton>
			</Row>
			<Signs {...props} />
			<Floor {...props} />
		</>
	);
}

function OneCrack({ page, list, crack }: { page: PartProps["page"]; list: Rows<Crack>; crack: Crack }) {
	const u = useShown();
	const readings = crack.readings ?? [];
	const set = (part: Partial<Crack>, now = false) => list.set(crack.id, part, now);
	const read = (k: number, part: Partial<Schemas["WidthReading"]>, now = false) =>
		set({ readings: readings.map((r, i) => (i === k ? { ...r, ...part } : r)) }, now);
	return (
		<One role="group" aria-label={`Crack ${crack.id}`}>
			<p>
				<b>{crack.id}</b> {page.account.cracks.find((a) => a.id === crack.id)?.sentence}
			</p>
			<Folded head={`Where it runs, and ${readings.length} ${readings.length === 1 ? "reading" : "readings"}`}>
				<Columns>
					<Chooser label="Face" choices={FACES} value={crack.face} onChange={(f) => f && set({ face: f as FaceKey }, true)} />
					<Chooser
						label="How it runs"
						choices={PATTERNS}
						value={crack.pattern}
						onChange={(p) => p && set({ pattern: p as Crack["pattern"] }, true)}
					/>
					<Chooser
						label="Its edges"
						choices={EDGES}
						value={crack.edges ?? "unknown"}
						onChange={(e) => e && set({ edges: e as "fresh" }, true)}
					/>
					<Field label="Begins, from the left end" {...list.text(crack, "from_x")} />
					<Field label="Begins, above the foot" {...list.text(crack, "from_z")} />
					<Field label="Ends, from the left end" {...list.text(crack, "to_x")} />
					<Field label="Ends, above the foot" {...list.text(crack, "to_z")} />
					<Field label="In words" {...list.text(crack, "text")} />
				</Columns>
				<Tick value={crack.displaced ?? false} onChange={(displaced) => set({ displaced }, true)}>
					One side stands out before the other
				</Tick>
				{readings.map((r, k) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: readings have no names and keep their order
					<Row key={k} $gap={10}>
						<Field label="Read on" type="date" value={r.on} onChange={(on) => on && read(k, { on }, true)} />
						<Chooser label="Where" choices={ALONG} value={r.at} onChange={(a) => a && read(k, { at: a as "middle" }, true)} />
						<Field
							label="How wide"
							value={r.width}
							onChange={(width) => read(k, { width })}
							onBlur={list.settle}
							error={list.wrong(crack.id, "readings")}
						/>
						<QuietButton onPress={() => set({ readings: readings.filter((_, i) => i !== k) }, true)}>Take out</QuietButton>
					</Row>
				))}
				<Row $gap={8}>
					<PlainButton
						onPress={() =>
							set(
								{
									readings: [
										...readings,
										{
											on: new Date().toISOString().slice(0, 10),
											at: readings.at(-1)?.at ?? "middle",
											width: u.start("0.2 mm", "0.01 in"),
										},
									],
								},
								true,
							)
						}
					>
						Read its width
					</PlainButton>
					<QuietButton onPress={() => list.remove(crack.id)}>Take {crack.id} out</QuietButton>
				</Row>
			</Folded>
		</One>
	);
}

function Signs({ editing }: PartProps) {
	const list = rowsOf<Walls, "signs", Schemas["SignRecord"]>(editing, "signs");
	const { rows: signs, set } = list;
	return (
		<>
			<h2>Other signs</h2>
			{signs.map((s) => (
				<Row key={s.id} $gap={10} role="group" aria-label={`Sign ${s.id}`}>
					<Chooser label="Face" choices={FACES} value={s.face} onChange={(f) => f && set(s.id, { face: f as FaceKey }, true)} />
					<Chooser
						label="What"
						choices={SIGNS}
						value={s.kind}
						onChange={(k) => k && set(s.id, { kind: k as "door-binds" }, true)}
					/>
					<Field label="From the left end" {...list.text(s, "from_left")} />
					<Field label="In words" {...list.text(s, "text")} />
					<QuietButton onPress={() => list.remove(s.id)}>Take {s.id} out</QuietButton>
				</Row>
			))}
			<Row>
				<PlainButton
					onPress={() => list.add({ id: nextId("S", signs), face: "front", kind: "door-binds", from_left: "", text: "" })}
				>
					Add a sign
				</PlainButton>
			</Row>
		</>
	);
}

function Floor({ page, editing }: PartProps) {
	const u = useShown();
	const list = rowsOf<Walls, "floor", Schemas["FloorPoint"]>(editing, "floor");
	const { rows: floor, set } = list;
	const [picked, pick] = useState<string | null>(null);
	const chosen = floor.find((p) => p.id === picked);
	const last = floor.at(-1);
	const add = (point: Partial<Schemas["FloorPoint"]> & { id: string }) => {
		list.add({
			x: last?.x ?? u.start("0 m", "0 ft"),
			y: last?.y ?? u.start("0 m", "0 ft"),
			height: u.start("0 mm", "0 in"),
			...point,
		});
		pick(point.id);
	};
	// A place is good to the width of a foot on the floor; more figures would claim more.
	const at = (metres: number) => u.typed(Math.max(0, metres), 1);
	return (
		<>
			<h2>Floor heights</h2>
			{page.account.floor && <p>{page.account.floor.sentence}</p>}
			<Two>
				{floor.length > 0 && (
					<Drawing
						svg={page.floor}
						most="360px"
						chosen={chosen ? { kind: "height", id: chosen.id } : null}
						onChoose={(c) => pick(c.id)}
						onPoint={(x, y) => chosen && set(chosen.id, { x: at(x), y: at(y) }, true)}
					/>
				)}
				<Stack $gap={8}>
					<Soft>
						{chosen
							? `Press where ${chosen.id} was read, or type its place.`
							: floor.length === 0
								? "Read heights of a floor, or take them from the level book: three make a plane, four begin to show a bend."
								: "Choose a height, then press in the plan where it was read. A disc lies above the best plane, a ring below it."}
					</Soft>
					<Row $gap={6} role="group" aria-label="Heights">
						{floor.map((p) => (
							<PlainButton key={p.id} aria-pressed={p.id === picked} onPress={() => pick(p.id === picked ? null : p.id)}>
								{p.id} · {p.height}
							</PlainButton>
						))}
					</Row>
					{chosen && (
						<Row $gap={10} role="group" aria-label={`Height ${chosen.id}`}>
							{(["x", "y", "height"] as const).map((part) => (
								<Field
									key={part}
									label={{ x: "From the left wall", y: "From the front wall", height: "Height" }[part]}
									{...list.text(chosen, part)}
								/>
							))}
							<QuietButton onPress={() => list.remove(chosen.id)}>Take out</QuietButton>
						</Row>
					)}
					<Row>
						<PlainButton onPress={() => add({ id: nextId("H", floor) })}>Read a height</PlainButton>
						{page.account.booked.map((b) => (
							<QuietButton key={b.point} onPress={() => add({ id: b.point, height: b.typed })}>
								Take {b.point} from the level book: {b.typed}
							</QuietButton>
						))}
					</Row>
				</Stack>
			</Two>
		</>
	);
}

const Two = styled.div`
	display: grid;
	grid-template-columns: minmax(0, 1.2fr) minmax(0, 1fr);
	gap: 8px 22px;
	align-items: start;
	@media (max-width: 900px) { grid-template-columns: minmax(0, 1fr); }
`;
