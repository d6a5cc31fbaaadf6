import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Columns, Folded, Row, Soft, Stack } from "../../design/layout";
import { hairline } from "../../design/tokens";
import { useHalf, useStay } from "../../parts/draft/useHalf";
import { Item } from "../../parts/Item";
import { firstPlace, OnSurface } from "../../parts/OnSurface";
import { nextId, rowsOf } from "../../parts/rows";
import { Table } from "../../parts/Table";
import { useShown } from "../../parts/units";
import { Meter } from "./Meter";
import type { PartProps } from "./Moisture";

type Reading = Schemas["MoistureReading"];

const SCALES = [
	{ id: "wood", name: "Wood moisture, %" },
	{ id: "wood-equivalent", name: "Wood equivalent, %" },
	{ id: "relative", name: "Relative, 0 to 100" },
];
const MATERIALS = ["softwood", "hardwood", "wood-board", "gypsum-board", "plaster", "masonry", "concrete"].map((id) => ({
	id,
	name: id.replace("-", " ").replace(/^./, (x) => x.toUpperCase()),
}));
const WORDS = { dry: "dry", raised: "raised", wet: "wet" } as const;
/** Below what it belongs to, as wide as the page. */
const Whole = styled(Stack)`flex-basis: 100%;`;
const One = styled(Stack)`border-bottom: ${hairline}; padding-bottom: 12px;`;

/** Every surface as it was read, and the reading that is taken now. */
export function Maps(props: PartProps) {
	const { page } = props;
	const { account } = page;
	return (
		<>
			<Told {...props} />
			<TakeReading {...props} />
			{account.maps.map((m, k) => (
				<One key={m.key} role="group" aria-label={`${m.name}, ${m.on}`}>
					<h2>
						{m.name} <Soft>{m.on}</Soft>
					</h2>
					<p>{m.sentence}</p>
					<Drawing svg={page.maps[k] ?? ""} most="380px" />
					<Soft>
						Ochre: raised; blue: wet; the line is the wet edge. {m.map?.next && "The cross: take one here. "}
						{m.against}
					</Soft>
					{m.doubts.map((d) => (
						<p key={d}>{d}</p>
					))}
					<Folded head={`${m.readings.length} readings`}>
						<Table aria-label={`Readings of ${m.name}`}>
							<thead>
								<tr>
									<th>Reading</th>
									<th className="n">Shows</th>
									<th className="n">Over dry</th>
									<th>Means</th>
									<th />
								</tr>
							</thead>
							<tbody>
								{m.readings.map((r) => (
									<Line key={r.id} {...props} shown={r} />
								))}
							</tbody>
						</Table>
					</Folded>
				</One>
			))}
		</>
	);
}

/** Readings that were told on the round: each goes to its place on a surface, and what was not said of it is given first. */
function Told({ page, editing, rooms }: PartProps) {
	const u = useShown();
	const rows = rowsOf<Schemas["Moisture"], "readings", Reading>(editing, "readings");
	const [open, setOpen] = useState<string | null>(null);
	const [at, setAt] = useState<Reading["at"] | null>(null);
	if (page.told.length === 0) return null;
	const place = (t: Schemas["ReadingTold"]) => {
		const { room, wall, part, face, along, up } = t.reading.at;
		const first = firstPlace(u, rooms, rows.rows.at(-1)?.at);
		const known = room || face ? { ...first, room: room ?? "", face: face ?? null, part, wall: wall || first.wall || 1 } : first;
		setAt({ ...known, along: along || "", up: up || "" });
		setOpen(t.note_id);
	};
	const keep = (t: Schemas["ReadingTold"], at: Reading["at"]) => {
		rows.add({ ...t.reading, id: nextId("P", rows.rows), at });
		setOpen(null);
	};
	return (
		<ul aria-label="Readings told on the round">
			{page.told.map((t) => (
				<Item key={t.note_id}>
					<span>
						{t.reading.value} <Soft>told: “{t.text}”</Soft>
					</span>
					{open === t.note_id && at ? (
						<Whole $gap={6} role="group" aria-label={`Where ${t.reading.value} was read`}>
							<Columns>
								<OnSurface place={at} rooms={rooms} onChange={setAt} onBlur={() => {}} wrong={() => undefined} />
							</Columns>
							<Row>
								<PlainButton isDisabled={!at.along?.trim() || !at.up?.trim()} onPress={() => keep(t, at)}>
									Put it there
								</PlainButton>
							</Row>
						</Whole>
					) : (
						<QuietButton onPress={() => (t.placed ? keep(t, t.reading.at) : place(t))}>
							{t.placed ? "Put it on its map" : "Say where, and put it there"}
						</QuietButton>
					)}
				</Item>
			))}
		</ul>
	);
}

function Line({ editing, shown }: PartProps & { shown: Schemas["ReadAt"] }) {
	const rows = rowsOf<Schemas["Moisture"], "readings", Reading>(editing, "readings");
	return (
		<tr>
			<td>{shown.id}</td>
			<td className="n">{shown.value}</td>
			<td className="n">{shown.level == null ? "–" : `${shown.level.toFixed(1)} spreads`}</td>
			<td>{shown.dry ? "dry reference" : shown.class ? WORDS[shown.class] : "no judgement"}</td>
			<td>
				<QuietButton onPress={() => rows.remove(shown.id)}>Take {shown.id} out</QuietButton>
			</td>
		</tr>
	);
}

/** A reading in the making: typed, or live from the meter. It keeps its surface for the next one. */
function TakeReading({ view, editing, rooms, day }: PartProps) {
	const u = useShown();
	const rows = rowsOf<Schemas["Moisture"], "readings", Reading>(editing, "readings");
	const last = rows.rows.at(-1);
	const [at, setAt] = useStay(`${view.job.id} reading at`, firstPlace(u, rooms, last?.at));
	const [how, setHow] = useStay(`${view.job.id} reading how`, {
		scale: last?.scale ?? ("relative" as const),
		material: last?.material ?? ("gypsum-board" as const),
	});
	const [typed, setTyped] = useHalf(`${view.job.id} reading shows`);
	// It comes back with the figure it was set for, and alone it does not: a wet place read next would be taken for a reference.
	const [left, leave] = useStay(`${view.job.id} reading dry`, false);
	const [dry, setDry] = useState(typed !== "" && left);
	const figure = Number(typed.replace(",", ".").replace("%", "").trim());
	const known = typed.trim() !== "" && Number.isFinite(figure);
	const take = (value: number) => {
		rows.add({
			id: nextId("P", rows.rows),
			at,
			instrument: how.scale === "relative" ? "pinless" : "pin",
			scale: how.scale,
			material: how.material,
			value,
			on: day,
			dry,
		});
		setTyped("");
	};
	return (
		<Stack $gap={8} role="group" aria-label="Take a reading">
			<Columns>
				<OnSurface place={at} rooms={rooms} onChange={setAt} onBlur={() => {}} wrong={() => undefined} />
				<Chooser label="Scale" choices={SCALES} value={how.scale} onChange={(s) => s && setHow({ ...how, scale: s as "wood" })} />
				<Chooser
					label="Material"
					choices={MATERIALS}
					value={how.material}
					onChange={(m) => m && setHow({ ...how, material: m as "plaster" })}
				/>
				<Field
					label="It shows"
					value={typed}
					onChange={setTyped}
					error={typed.trim() !== "" && !known ? "Type the figure alone, as 28." : undefined}
				/>
			</Columns>
			<Row $gap={12}>
				<Tick
					value={dry}
					onChange={(ticked) => {
						setDry(ticked);
						leave(ticked);
					}}
				>
					This place is surely dry: a reference
				</Tick>
				<PlainButton isDisabled={!known} onPress={() => take(figure)}>
					Take the reading
				</PlainButton>
			</Row>
			<Meter job={view.job.id} at={at} relative={how.scale === "relative"} onTake={take} />
		</Stack>
	);
}
