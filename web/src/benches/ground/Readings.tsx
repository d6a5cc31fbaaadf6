import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { readReadings, readStick, useZeroAltimeter } from "../../api/queries";
import { say } from "../../design/Notices";
import { Chooser, Columns, Field, Figures, PlainButton, QuietButton, Row, Soft, Stack } from "../../design/primitives";
import { hairline, tone } from "../../design/tokens";
import { RowButton, Table } from "../../parts/Table";
import type { GroundPage, GroundRecord } from "./kinds";

type Spot = Schemas["SpotRecord"];
type FaceName = NonNullable<NonNullable<Spot["at"]>["face"]>;

export interface GroundFields {
	draft: GroundRecord;
	type: (g: GroundRecord) => void;
	keep: (g?: GroundRecord) => void;
	wrong: { [field: string]: string };
}

/** Where something is placed by: a face, or the plan itself. */
export const FACES = [
	{ id: "none", name: "Coordinates of the plan" },
	{ id: "front", name: "Front" },
	{ id: "left", name: "Left" },
	{ id: "rear", name: "Rear" },
	{ id: "right", name: "Right" },
];
const TOPS = [
	{ id: "soil", name: "Soil, lawn, bed" },
	{ id: "paving", name: "Paving" },
];
const SOILS = [
	{ id: "sand", name: "Sand or gravel, 25 mm/h" },
	{ id: "loam", name: "Loam, 8 mm/h" },
	{ id: "clay", name: "Clay, 1.5 mm/h" },
];
const UNITS = [
	{ id: "m", name: "Metres" },
	{ id: "mm", name: "Millimetres" },
	{ id: "ft", name: "Feet" },
	{ id: "in", name: "Inches" },
];

const Panel = styled.section`border-top: ${hairline}; padding-top: 12px;`;
const Short = styled.div`max-height: 330px; overflow-y: auto; border: ${hairline}; border-radius: 4px;`;

/** The next free name. */
export const nextName = (letter: string, taken: (string | undefined)[]) => {
	let n = taken.length + 1;
	while (taken.includes(`${letter}${n}`)) n += 1;
	return `${letter}${n}`;
};

interface ReadingsProps {
	job: string;
	page: GroundPage;
	fields: GroundFields;
	chosen: string | null;
	onChoose: (id: string) => void;
}

/** Readings with their places: typed, from the level book, from the altimeter, from a file. */
export function Readings({ job, page, fields, chosen, onChoose }: ReadingsProps) {
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
			at: { ...BLANK, face: "front", along: "1 m", out: "0 m", ...last?.at },
			height: last?.height || "0",
			top: last?.top ?? "soil",
			how: "typed",
		};
		// The next reading is farther out on the same station.
		if (last?.at?.out) spot.at = { ...spot.at, out: `${(Number.parseFloat(last.at.out) + 0.6).toFixed(2)} m` } as Spot["at"];
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
									<th className="n">mm</th>
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
											<td className="n">{z === undefined ? "–" : (z * 1000).toFixed(0)}</td>
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
								hint="-120 mm; empty when the level book has it"
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
							onTake={(mm) => set({ height: `${mm.toFixed(0)} mm`, how: "altimeter" }, true)}
						/>
						{one.at?.face && (
							<Stick
								job={job}
								spot={one}
								onTake={(percent, length) => {
									const z = page.account.readings.find((r) => r.id === one.id)?.z_m ?? 0;
									const id = nextName(
										"P",
										spots.map((s) => s.id),
									);
									const spot: Spot = {
										...one,
										id,
										at: { ...BLANK, ...one.at, out: `${(Number.parseFloat(one.at?.out ?? "0") + length).toFixed(2)} m` },
										height: `${((z - (percent / 100) * length) * 1000).toFixed(0)} mm`,
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
				<Lines draft={draft} keep={keep} fault={Object.entries(wrong).find(([f]) => f.startsWith("lines"))?.[1]} />
				<Book draft={draft} says={page.account.book_says} type={type} keep={keep} wrong={wrong} />
				<FromFile job={job} draft={draft} keep={keep} />
				<Columns>
					<Chooser
						label="Soil, for what seeps away (estimate)"
						choices={SOILS}
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

const BLANK = { mass: "", face: null, along: "0 m", out: "0 m" };

interface AltimeterProps {
	job: string;
	page: GroundPage;
	spot: Spot;
	onTake: (mm: number) => void;
}

const Live = styled.output`font-size: 24px; color: ${tone.ink}; &[data-steady="false"] { color: ${tone.ochre}; }`;

/** The simulated hose: zeroed on one reading, its cell laid on another, read live. */
function Altimeter({ job, page, spot, onTake }: AltimeterProps) {
	const zero = useZeroAltimeter(job);
	const [live, setLive] = useState<Schemas["AltimeterReading"] | null>(null);
	const source = useRef<EventSource | null>(null);
	const stop = () => {
		source.current?.close();
		source.current = null;
	};
	// biome-ignore lint/correctness/useExhaustiveDependencies: the cell is lifted when another reading is chosen
	useEffect(() => {
		setLive(null);
		return stop;
	}, [spot.id]);
	const at = page.account.readings.find((r) => r.id === spot.id)?.at;
	const listen = () => {
		stop();
		if (!at) return say("Give the reading a place first.", { wrong: true });
		const events = new EventSource(`/api/jobs/${job}/altimeter?along=${at[0]}&out=${at[1]}`);
		source.current = events;
		events.onmessage = (e) => {
			const r = JSON.parse(e.data) as Schemas["AltimeterReading"];
			setLive(r);
			if (r.state === "lost") stop();
		};
		events.onerror = () => {
			stop();
			setLive(
				(r) =>
					r ?? { seconds: 0, mm: null, state: "lost", words: "Nothing is heard. Zero it on a reading first.", simulated: true },
			);
		};
	};
	return (
		<Row $gap={8}>
			<b>Altimeter (simulated)</b>
			<QuietButton
				onPress={() =>
					zero.mutate(spot.id ?? "", { onSuccess: (s) => say(s.words), onError: (e) => say(e.message, { wrong: true }) })
				}
			>
				Zero on {spot.id}
			</QuietButton>
			<PlainButton onPress={listen}>Lay the cell here and read</PlainButton>
			{live && (
				<>
					<Live data-steady={live.state === "steady"}>{live.mm == null ? "–" : `${live.mm.toFixed(1)} mm`}</Live>
					<Soft role="status">{live.words}</Soft>
					{live.state === "steady" && live.mm != null && (
						<PlainButton
							onPress={() => {
								stop();
								if (live.mm != null) onTake(live.mm);
							}}
						>
							Take it
						</PlainButton>
					)}
				</>
			)}
		</Row>
	);
}

/** The simulated slope stick, laid outward from a reading: its fall gives the next one. */
function Stick({ job, spot, onTake }: { job: string; spot: Spot; onTake: (percent: number, length: number) => void }) {
	const [length, setLength] = useState("1.2");
	const [shows, setShows] = useState<Schemas["StickShows"] | null>(null);
	const meters = Number(length.replace(",", "."));
	const read = async () => {
		try {
			setShows(await readStick(job, spot.id ?? "", meters));
		} catch (e) {
			say((e as Error).message, { wrong: true });
		}
	};
	return (
		<Row $gap={8} style={{ alignItems: "end" }}>
			<b style={{ alignSelf: "center" }}>Slope stick (simulated)</b>
			<Field
				label="Its length in metres"
				value={length}
				onChange={(v) => {
					setLength(v);
					setShows(null);
				}}
			/>
			<PlainButton onPress={() => void read()}>Lay it outward and read</PlainButton>
			{shows && (
				<>
					<Soft role="status">{shows.words}</Soft>
					<PlainButton onPress={() => onTake(shows.percent, meters)}>Add the reading it gives</PlainButton>
				</>
			)}
		</Row>
	);
}

const LINES = [
	{ id: "kerb", name: "Kerb, edge of a bed" },
	{ id: "swale", name: "Bottom of a swale" },
	{ id: "lot-line", name: "Lot line: beyond it is the neighbour's" },
	{ id: "bend", name: "Any other bend" },
];

/** Lines through readings: the ground bends along them. */
function Lines({ draft, keep, fault }: { draft: GroundRecord; keep: (g?: GroundRecord) => void; fault: string | undefined }) {
	const lines = draft.lines ?? [];
	const [through, setThrough] = useState("");
	const [kind, setKind] = useState("kerb");
	const add = () => {
		const spots = through.split(/[\s,;]+/).filter(Boolean);
		const missing = spots.find((s) => (draft.spots ?? []).every((p) => p.id !== s));
		if (missing) return say(`There is no reading ${missing}. Read it first, or leave it out of the line.`, { wrong: true });
		if (spots.length < 2) return say("A line runs through at least two readings: type their names, P1 P2 P3.", { wrong: true });
		keep({ ...draft, lines: [...lines, { kind, spots }] } as GroundRecord);
		setThrough("");
	};
	return (
		<div>
			<h3>Lines through readings</h3>
			{fault && <p role="alert">{fault}</p>}
			<ul>
				{lines.map((l, k) => (
					<li key={`${l.kind}${l.spots.join()}`}>
						<Row $between>
							<span>
								{LINES.find((n) => n.id === l.kind)?.name}: {l.spots.join(", ")}
							</span>
							<QuietButton onPress={() => keep({ ...draft, lines: lines.filter((_, i) => i !== k) })}>Take it away</QuietButton>
						</Row>
					</li>
				))}
			</ul>
			<Columns>
				<Chooser label="A line that is" choices={LINES} value={kind} onChange={(k) => k && setKind(k)} />
				<Field label="Through the readings" value={through} onChange={setThrough} hint="P4 P9 P14" />
				<PlainButton onPress={add} isDisabled={!through.trim()}>
					Draw the line
				</PlainButton>
			</Columns>
		</div>
	);
}

interface BookProps {
	draft: GroundRecord;
	says: string;
	type: (g: GroundRecord) => void;
	keep: (g?: GroundRecord) => void;
	wrong: { [field: string]: string };
}

/** The level book: backsight, sights between, foresight. */
function Book({ draft, says, type, keep, wrong }: BookProps) {
	const lines = draft.book?.lines ?? [];
	const [open, setOpen] = useState(false);
	const set = (k: number, part: Partial<Schemas["BookLine"]>) =>
		type({ ...draft, book: { ...draft.book, lines: lines.map((l, i) => (i === k ? { ...l, ...part } : l)) } } as GroundRecord);
	const fault = Object.entries(wrong).find(([field]) => field.startsWith("book"))?.[1];
	return (
		<div>
			<Row $between>
				<h3>Level book</h3>
				<QuietButton aria-expanded={open} onPress={() => setOpen(!open)}>
					{open ? "Close the book" : "Open the book"}
				</QuietButton>
			</Row>
			{says && <p>{says}</p>}
			{fault && <p role="alert">{fault}</p>}
			{open && (
				<Stack>
					<Field
						label="Height of the first point above the floor"
						value={draft.book?.start ?? ""}
						onChange={(start) => type({ ...draft, book: { ...draft.book, lines, start } } as GroundRecord)}
						onBlur={() => keep(draft)}
					/>
					{lines.map((l, k) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: a line of the book is its place in it
						<Columns key={k} style={{ gridTemplateColumns: "repeat(auto-fit, minmax(110px, 1fr))" }}>
							<Field
								label={`Line ${k + 1}: point`}
								value={l.point ?? ""}
								onChange={(point) => set(k, { point })}
								onBlur={() => keep(draft)}
							/>
							<Field label="Backsight" value={l.back ?? ""} onChange={(back) => set(k, { back })} onBlur={() => keep(draft)} />
							<Field
								label="Between"
								value={l.between ?? ""}
								onChange={(between) => set(k, { between })}
								onBlur={() => keep(draft)}
							/>
							<Field label="Foresight" value={l.fore ?? ""} onChange={(fore) => set(k, { fore })} onBlur={() => keep(draft)} />
						</Columns>
					))}
					<Row $gap={8}>
						<PlainButton
							onPress={() =>
								type({
									...draft,
									book: { start: draft.book?.start ?? "0", lines: [...lines, { point: "", back: "", between: "", fore: "" }] },
								} as GroundRecord)
							}
						>
							Add a line
						</PlainButton>
						{lines.length > 0 && (
							<QuietButton onPress={() => keep({ ...draft, book: { ...draft.book, lines: lines.slice(0, -1) } } as GroundRecord)}>
								Take the last line away
							</QuietButton>
						)}
					</Row>
				</Stack>
			)}
		</div>
	);
}

/** Readings from a file: shown with every bad row before anything is kept. */
function FromFile({ job, draft, keep }: { job: string; draft: GroundRecord; keep: (g?: GroundRecord) => void }) {
	const [unit, setUnit] = useState("m");
	const [columns, setColumns] = useState<{ along?: string; out?: string; height?: string }>({});
	const [file, setFile] = useState<File | null>(null);
	const [read, setRead] = useState<Schemas["ReadingsFile"] | null>(null);
	const [fault, setFault] = useState("");
	const [busy, setBusy] = useState(false);
	const input = useRef<HTMLInputElement>(null);
	const look = async (of: File, how: { unit: string; along?: string; out?: string; height?: string }) => {
		setBusy(true);
		try {
			setRead(await readReadings(job, of, how));
			setFault("");
		} catch (e) {
			setRead(null);
			setFault((e as Error).message);
		}
		setBusy(false);
	};
	const again = (how: { unit?: string; along?: string; out?: string; height?: string }) => {
		const next = { ...columns, ...how };
		setColumns({ along: next.along, out: next.out, height: next.height });
		if (how.unit) setUnit(how.unit);
		if (file) void look(file, { unit: how.unit ?? unit, ...next });
	};
	const choices = (read?.columns ?? []).map((c) => ({ id: c, name: c }));
	const keepAll = () => {
		if (!read) return;
		const taken = new Set((draft.spots ?? []).map((s) => s.id));
		let n = 0;
		const fresh = read.spots.map((s) => {
			let id = s.id ?? "";
			while (taken.has(id)) id = `R${++n}`;
			taken.add(id);
			return { ...s, id };
		});
		keep({ ...draft, spots: [...(draft.spots ?? []), ...fresh] } as GroundRecord);
		setRead(null);
		setFile(null);
	};
	return (
		<div>
			<Row $gap={8}>
				<h3>From a file</h3>
				<PlainButton onPress={() => input.current?.click()} isDisabled={busy}>
					{busy ? "Reading …" : "Choose CSV or GeoJSON"}
				</PlainButton>
				<input
					ref={input}
					type="file"
					hidden
					aria-label="Readings file"
					accept=".csv,.geojson,.json,text/csv,application/geo+json"
					onChange={(e) => {
						const f = e.target.files?.[0];
						if (f) {
							setFile(f);
							void look(f, { unit, ...columns });
						}
						e.target.value = "";
					}}
				/>
			</Row>
			{fault && <p role="alert">{fault}</p>}
			{read && (
				<Stack>
					<p role="status">{read.words}</p>
					<Columns>
						<Chooser label="Bare numbers are" choices={UNITS} value={unit} onChange={(u) => u && again({ unit: u })} />
						{choices.length > 3 && (
							<>
								<Chooser
									label="Along"
									choices={choices}
									value={read.taken.along ?? null}
									onChange={(along) => along && again({ along })}
								/>
								<Chooser label="Out" choices={choices} value={read.taken.out ?? null} onChange={(out) => out && again({ out })} />
								<Chooser
									label="Height"
									choices={choices}
									value={read.taken.height ?? null}
									onChange={(h) => h && again({ height: h })}
								/>
							</>
						)}
					</Columns>
					{read.bad.length > 0 && (
						<ul aria-label="Rows that cannot be read" style={{ maxHeight: 160, overflowY: "auto" }}>
							{read.bad.map((b) => (
								<li key={b.line}>
									Line {b.line}: {b.message}
								</li>
							))}
						</ul>
					)}
					<Figures>
						{read.spots.slice(0, 5).map((s) => (
							<span key={s.id} style={{ display: "block" }}>
								{s.id}: {s.at?.along} along, {s.at?.out} out, {s.height}
							</span>
						))}
					</Figures>
					<Row $gap={8}>
						<PlainButton onPress={keepAll} isDisabled={read.spots.length === 0}>
							Keep these {read.spots.length} readings
						</PlainButton>
						<QuietButton onPress={() => setRead(null)}>Drop them</QuietButton>
					</Row>
				</Stack>
			)}
		</div>
	);
}
