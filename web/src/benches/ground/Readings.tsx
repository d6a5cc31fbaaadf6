import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row, Stack } from "../../design/layout";
import { RowButton, Table } from "../../parts/Table";
import { useShown } from "../../parts/units";
import { Book } from "./Book";
import { FromFile } from "./FromFile";
import { Altimeter, Stick } from "./Instruments";
import type { GroundPage, GroundRecord } from "./kinds";
import { Lines } from "./Lines";
import { BLANK, EDGES, FACES, type FaceName, type GroundFields, nextName, Panel, Short, SOILS, type Spot, TOPS } from "./spots";

interface ReadingsProps {
	job: string;
	page: GroundPage;
	fields: GroundFields;
	chosen: string | null;
	onChoose: (id: string) => void;
}

/** Two feet farther out, in the unit that was typed; the same place where the text is no plain figure. */
const fartherOut = (out: string) => {
	const typed = /^(\d+(?:\.\d+)?)\s*(m|ft)?$/.exec(out.trim());
	if (!typed) return out;
	return typed[2] === "ft" ? `${Number(typed[1]) + 2} ft` : `${(Number(typed[1]) + 0.6).toFixed(2)} m`;
};

/** Readings with their places: typed, from the level book, from the altimeter, from a file. */
export function Readings({ job, page, fields, chosen, onChoose }: ReadingsProps) {
	const u = useShown();
	const { draft, type, keep, wrong } = fields;
	const spots = draft.spots ?? [];
	const one = spots.find((s) => s.id === chosen);
	const masses = [...new Set(page.account.transects.map((t) => t.mass))];
	const set = (part: Partial<Spot>, now = false) => {
		const next = { ...draft, spots: spots.map((s) => (s.id === one?.id ? { ...s, ...part } : s)) };
		if (now) keep(next);
		else type(next);
	};
	const place = (part: Partial<NonNullable<Spot["at"]>>, now = false) => set({ at: { ...BLANK, ...one?.at, ...part } }, now);
	const add = () => {
		const id = nextName(
			"P",
			spots.map((s) => s.id),
		);
		const last = one ?? spots.at(-1);
		const spot: Spot = {
			id,
			at: { ...BLANK, face: "front", along: u.start("1 m", "3 ft"), out: u.start("0 m", "0 ft"), ...last?.at },
			height: last?.height || "0",
			top: last?.top ?? "soil",
			how: "typed",
		};
		// The next reading is farther out on the same station.
		if (last?.at?.out) spot.at = { ...spot.at, out: fartherOut(last.at.out) } as Spot["at"];
		keep({ ...draft, spots: [...spots, spot] } as GroundRecord);
		onChoose(id);
	};
	const of = (part: string) => (one ? wrong[`spots.${one.id}.${part}`] : undefined);
	return (
		<Panel aria-label="Readings">
			<Row $between>
				<h2>Readings</h2>
				<Row $gap={8}>
					<PlainButton onPress={add}>Add a reading</PlainButton>
					<a href={`/api/jobs/${job}/ground.csv`}>CSV</a>
					<a href={`/api/jobs/${job}/ground.geojson`}>GeoJSON</a>
				</Row>
			</Row>
			<Stack $gap={14}>
				{spots.length > 0 && (
					<Short>
						<Table aria-label="Readings">
							<thead>
								<tr>
									<th>Reading</th>
									<th>Place</th>
									<th className="n">Height</th>
									<th>How</th>
								</tr>
							</thead>
							<tbody>
								{spots.map((s) => {
									const z = page.account.readings.find((r) => r.id === s.id)?.z_m;
									return (
										<tr key={s.id} data-chosen={s.id === chosen}>
											<td>
												<RowButton type="button" aria-pressed={s.id === chosen} onClick={() => s.id && onChoose(s.id)}>
													{s.id}
												</RowButton>
											</td>
											<td>
												{s.at?.face ? `${s.at.face} ${s.at.mass}, ` : ""}
												{s.at?.along} along, {s.at?.out} out{s.top === "paving" && ", paving"}
											</td>
											<td className="n">{z === undefined ? "–" : u.depth(z)}</td>
											<td>{s.how}</td>
										</tr>
									);
								})}
							</tbody>
						</Table>
					</Short>
				)}
				{one && (
					<Stack>
						<h3>Reading {one.id}</h3>
						<Columns>
							<Chooser
								label="Placed by"
								choices={FACES}
								value={one.at?.face ?? "none"}
								onChange={(f) => f && place({ face: f === "none" ? null : (f as FaceName) }, true)}
							/>
							{one.at?.face && masses.length > 1 && (
								<Field
									label={`Mass (${masses.join(", ")})`}
									value={one.at?.mass ?? ""}
									onChange={(mass) => place({ mass })}
									onBlur={() => keep()}
								/>
							)}
							<Field
								label={one.at?.face ? "From the left end of the face" : "Right of the front left corner"}
								value={one.at?.along ?? ""}
								onChange={(along) => place({ along })}
								onBlur={() => keep(draft)}
								error={of("at.along")}
							/>
							<Field
								label={one.at?.face ? "Out from the face" : "To the rear of it"}
								value={one.at?.out ?? ""}
								onChange={(out) => place({ out })}
								onBlur={() => keep(draft)}
								error={of("at.out")}
							/>
							<Field
								label="Height above the floor"
								value={one.height ?? ""}
								onChange={(height) => set({ height, how: height ? "typed" : "book" })}
								onBlur={() => keep(draft)}
								hint={`${u.start("-120 mm", "-4 3/4 in")}; empty when the level book has it`}
								error={of("height")}
							/>
							<Chooser
								label="Top"
								choices={TOPS}
								value={one.top ?? "soil"}
								onChange={(t) => t && set({ top: t as Spot["top"] }, true)}
							/>
						</Columns>
						<Altimeter
							job={job}
							page={page}
							spot={one}
							onTake={(mm) => set({ height: u.read(mm / 1000), how: "altimeter" }, true)}
						/>
						{one.at?.face && (
							<Stick
								job={job}
								spot={one}
								onTake={(end) => {
									const id = nextName(
										"P",
										spots.map((s) => s.id),
									);
									const spot: Spot = {
										...one,
										id,
										at: { ...BLANK, ...one.at, out: u.typed(end.out_m, 2) },
										height: u.read(end.height_m),
										how: "stick",
									};
									keep({ ...draft, spots: [...spots, spot] });
									onChoose(id);
								}}
							/>
						)}
						<QuietButton onPress={() => keep({ ...draft, spots: spots.filter((s) => s.id !== one.id) })}>
							Take {one.id} away
						</QuietButton>
					</Stack>
				)}
				<Lines job={job} draft={draft} keep={keep} fault={Object.entries(wrong).find(([f]) => f.startsWith("lines"))?.[1]} />
				<Book draft={draft} says={page.account.book_says} type={type} keep={keep} wrong={wrong} />
				<FromFile job={job} draft={draft} keep={keep} />
				<Columns>
					<Chooser
						label="Soil, for what seeps away (estimate)"
						choices={SOILS.map((s) => ({
							id: s.id,
							name: `${s.name}, ${s.mm_h < 5 && !u.units.startsWith("us") ? `${s.mm_h} mm/h` : u.rain(s.mm_h)}`,
						}))}
						value={draft.soil ?? "loam"}
						onChange={(s) => s && keep({ ...draft, soil: s as GroundRecord["soil"] })}
					/>
					<Field
						label="Its loss rate, when it is known better"
						value={draft.loss ?? ""}
						onChange={(loss) => type({ ...draft, loss })}
						onBlur={() => keep(draft)}
						error={wrong.loss}
						hint="10 mm/h"
					/>
					<Chooser
						label="At the edge of the readings"
						choices={EDGES}
						value={draft.edge ?? "open"}
						onChange={(e) => e && keep({ ...draft, edge: e as GroundRecord["edge"] })}
					/>
					<Field
						label="Width of a cell of the grid"
						value={draft.cell ?? ""}
						onChange={(cell) => type({ ...draft, cell })}
						onBlur={() => keep(draft)}
						error={wrong.cell}
						hint="0.25 m while it is empty"
					/>
				</Columns>
			</Stack>
		</Panel>
	);
}
