import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useRef } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type JobView, type Place, type RoofRecord, readRoofFile } from "../../api/queries";
import { FACES } from "../../app/where";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Columns, Folded, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { NumberBox } from "../../design/numbers";
import { hairline, tone } from "../../design/tokens";
import { type Shown, useShown } from "../../parts/units";
import type { Editing, Page } from "./useRoof";

type Mass = Schemas["MassRecord"];
type Pitch = Schemas["PitchRead"];
type Fitting = Schemas["Fitting"];
type Face = NonNullable<Place["face"]>;

const Box = styled.section`border-top: ${hairline}; padding-top: 12px; &[data-wrong="true"] { border-left: 4px solid ${tone.brick}; padding-left: 12px; }`;
const Walked = styled.div`display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1fr); gap: 16px; @media (max-width: 760px) { grid-template-columns: minmax(0, 1fr); }`;

const named = <T extends string>(names: Record<T, string>) =>
	(Object.entries(names) as [T, string][]).map(([id, name]) => ({ id, name }));
const FORMS = named({
	hip: "Hip",
	gable: "Gable",
	"half-hip": "Half-hip",
	gambrel: "Gambrel",
	mansard: "Mansard",
	shed: "Shed",
	flat: "Flat",
});
const WAYS = named({ across: "Left to right", "front-to-rear": "Front to rear" });
const FACE_NAMES = named({ front: "Front", left: "Left", rear: "Rear", right: "Right" });
const HOW = named({
	typed: "Typed",
	"level-and-stick": "Level and stick",
	heights: "Two heights",
	courses: "Courses counted",
});
const KINDS = named({ chimney: "Chimney", skylight: "Skylight", pipe: "Pipe", curb: "Vent or curb" });

/** What a way of measuring a pitch begins with: half a rise to a run, in round figures of the reader's unit. */
const begins = (start: Shown["start"]): Record<Pitch["how"], Pitch> => ({
	typed: { how: "typed", text: "6:12" },
	"level-and-stick": { how: "level-and-stick", level: start("60 cm", "24 in"), drop: start("30 cm", "12 in") },
	heights: { how: "heights", low: start("2.7 m", "9 ft"), high: start("4.5 m", "15 ft"), run: start("3.6 m", "12 ft") },
	courses: { how: "courses", courses: 20, exposure: start("145 mm", "5 3/4 in"), rise: start("1.3 m", "4 ft 4 in") },
});

/** Whether a length was typed in feet. */
const inFeet = (length: string) => /ft|'/.test(length);

/** A height somewhat above another, in its own unit. */
function above(height: string, metres: number): string {
	const [, number = "2.7", unit = " m"] = height.match(/^\s*([\d.]+)(\s*[a-z'"]*)/i) ?? [];
	const feet = /ft|'/.test(unit);
	return `${(Number(number) + (feet ? metres / 0.3048 : metres)).toFixed(feet ? 0 : 1)}${unit || " m"}`;
}

/** Where something of two metres begins in the middle of a wall, in the wall's own unit. */
function middle(length: string): string {
	const feet = /ft|'/.test(length);
	const at = Math.max(0, Number.parseFloat(length) / 2 - (feet ? 3 : 1)) || 0;
	return `${at.toFixed(1)} ${feet ? "ft" : "m"}`;
}

/** What a form asks for that the one before did not. */
function asked(form: Mass["form"], m: Mass): Partial<Mass> {
	// A flat roof has no slopes that could differ.
	if (form === "flat") return { faces: {} };
	if (form === "shed") return m.falls_to ? {} : { falls_to: "front" };
	if (form === "half-hip") return m.ends_from ? {} : { ends_from: above(m.eave, 1) };
	if (form === "gambrel" || form === "mansard")
		return m.break_at ? {} : { break_at: above(m.eave, 2), upper_pitch: "4:12", pitch: { how: "typed", text: "18:12" } };
	return {};
}

const AS_THE_WHOLE: Schemas["FaceOf"] = { eave: "", pitch: "", overhang: "" };
const NEXT = "ABCDEFGHIJKLMNOPQRSTUVWXYZ";

/** The walls as walked, the masses, what stands on them: everything typed, each change drawn at once. */
export function Measured({ view, page, editing }: { view: JobView; page: Page; editing: Editing }) {
	const u = useShown();
	const { draft, type, keep, wrong } = editing;
	const masses = draft.masses ?? [];
	const choose = useQuery(ask.roofChoices()).data;
	const file = useRef<HTMLInputElement>(null);
	const t = page.account.perimeter;

	const setMass = (id: string, part: Partial<Mass>, now = false) => {
		const next = { ...draft, masses: masses.map((m) => (m.id === id ? { ...m, ...part } : m)) };
		if (now) keep(next);
		else type(next);
	};
	const add = () => {
		const id = [...NEXT].find((l) => masses.every((m) => m.id !== l)) ?? `M${masses.length}`;
		const first = masses[0];
		// A part is taped as its house was.
		const start = (metric: string, us: string) => (first ? (inFeet(first.length) ? us : metric) : u.start(metric, us));
		const mass: Mass = {
			id,
			name: first ? `part ${id}` : "main",
			length: first ? start("4 m", "12 ft") : start("12 m", "40 ft"),
			depth: first ? start("4 m", "12 ft") : start("8 m", "26 ft"),
			form: first ? "gable" : "hip",
			ridge: "front-to-rear",
			pitch: { how: "typed", text: "6:12" },
			eave: start("2.7 m", "9 ft"),
			overhang: start("0.4 m", "16 in"),
			covering: first?.covering ?? "asphalt-laminated",
			against: first ? { mass: first.id, face: "rear", from_left: start("0 m", "0 ft"), runs_on: true } : null,
		};
		keep({ ...draft, masses: [...masses, mass] });
	};
	const addDormer = () => {
		const id = [...NEXT].find((l) => masses.every((m) => m.id !== l)) ?? `M${masses.length}`;
		const under = masses[0];
		if (!under) return;
		const feet = inFeet(under.length);
		const mass: Mass = {
			id,
			name: `dormer ${id}`,
			length: feet ? "6 ft" : "2 m",
			depth: feet ? "3 ft" : "1 m",
			form: "gable",
			ridge: "front-to-rear",
			pitch: { how: "typed", text: "6:12" },
			eave: above(under.eave, 1.5),
			overhang: feet ? "8 in" : "0.2 m",
			covering: under.covering,
			against: { mass: under.id, face: "front", from_left: middle(under.length), inward: feet ? "3 ft" : "1 m", runs_on: true },
		};
		keep({ ...draft, masses: [...masses, mass] });
	};
	const fittings = draft.fittings ?? [];
	const setFitting = (id: string, part: Partial<Fitting>, now = false) => {
		const next = { ...draft, fittings: fittings.map((f) => (f.id === id ? { ...f, ...part } : f)) };
		if (now) keep(next);
		else type(next);
	};
	const addFitting = () => {
		const n = 1 + Math.max(0, ...fittings.map((f) => Number(f.id.slice(1)) || 0));
		const made: Fitting = { id: `F${n}`, kind: "pipe", mass: masses[0]?.id ?? "A", face: "rear" };
		keep({ ...draft, fittings: [...fittings, made] });
	};
	const readFile = async (chosen: File | undefined) => {
		if (!chosen) return;
		try {
			keep(await readRoofFile(view.job.id, chosen));
		} catch (e) {
			say((e as Error).message, { wrong: true });
		}
	};
	return (
		<Stack $gap={18}>
			<Walked>
				<Stack>
					<Field
						label="Walls as walked, from the front left corner: length, turn, length, turn"
						value={draft.perimeter ?? ""}
						onChange={(perimeter) => type({ ...draft, perimeter })}
						onBlur={() => draft.perimeter !== page.roof.perimeter && keep()}
						placeholder="18 L 9 L 18 L 9"
						hint="L and R turn a quarter; L45 by 45°. A bare number is metres; 59 ft works as well."
						error={wrong.perimeter}
					/>
					{t && (
						<Soft>
							{u.length(t.perimeter_m, 2)} round, {u.area(t.area_adjusted_m2)} within.{" "}
							{t.misclosure_ratio_1_in
								? `It misses its start by ${u.depth(t.linear_misclosure_m)}, 1 in ${Math.round(t.misclosure_ratio_1_in)}; spread along the walls by the compass rule.`
								: "It closes."}
							{t.doubtful_wall && ` Wall ${t.doubtful_wall} would explain the most of it.`}
						</Soft>
					)}
				</Stack>
				{page.perimeter && <Drawing svg={page.perimeter} most="230px" />}
			</Walked>
			{masses.map((m, i) => (
				<MassForm
					key={m.id}
					mass={m}
					others={masses.slice(0, i)}
					account={page.account.masses.find((a) => a.id === m.id)}
					coverings={(choose?.coverings ?? []).map((c) => ({ id: c.key, name: c.name.replace(/^./, (x) => x.toUpperCase()) }))}
					wrong={wrong}
					set={(part, now) => setMass(m.id, part, now)}
					keep={() => keep()}
					remove={
						masses.some((o) => o.against?.mass === m.id)
							? undefined
							: () =>
									keep({
										...draft,
										masses: masses.filter((o) => o.id !== m.id),
										fittings: fittings.filter((f) => f.mass !== m.id),
									})
					}
				/>
			))}
			<Row $gap={8}>
				<PlainButton onPress={add}>{masses.length ? "Add a mass" : "Add the main mass"}</PlainButton>
				{masses.length > 0 && <PlainButton onPress={addDormer}>Put a dormer on a slope</PlainButton>}
				<PlainButton onPress={() => file.current?.click()}>Read in GeoJSON</PlainButton>
				<input
					ref={file}
					type="file"
					hidden
					accept=".geojson,.json,application/geo+json"
					onChange={(e) => {
						void readFile(e.target.files?.[0]);
						e.target.value = "";
					}}
				/>
			</Row>
			{masses.length > 0 && (
				<Box aria-label="On the slopes">
					<h2>On the slopes</h2>
					<Stack>
						{fittings.map((f) => (
							<Columns key={f.id}>
								<Chooser
									label={`${f.id}: what it is`}
									choices={KINDS}
									value={f.kind}
									onChange={(k) => k && setFitting(f.id, { kind: k as Fitting["kind"] }, true)}
								/>
								<Field
									label="What people call it"
									value={f.name ?? ""}
									onChange={(name) => setFitting(f.id, { name })}
									onBlur={() => keep()}
								/>
								<Chooser
									label="On the mass"
									choices={masses.map((m) => ({ id: m.id, name: m.name }))}
									value={f.mass}
									onChange={(k) => k && setFitting(f.id, { mass: k }, true)}
								/>
								<Chooser
									label="On the slope that falls to"
									choices={FACE_NAMES}
									value={f.face}
									onChange={(k) => k && setFitting(f.id, { face: k as Face }, true)}
								/>
								<Field
									label="Width across the slope"
									value={f.width ?? ""}
									onChange={(width) => setFitting(f.id, { width })}
									onBlur={() => keep()}
									error={wrong[`fittings.${f.id}.width`]}
								/>
								<Field
									label="From the left end of the wall"
									value={f.from_left ?? ""}
									onChange={(from_left) => setFitting(f.id, { from_left })}
									onBlur={() => keep()}
									error={wrong[`fittings.${f.id}.from_left`]}
								/>
								<Field
									label="Up from the wall line"
									value={f.up ?? ""}
									onChange={(up) => setFitting(f.id, { up })}
									onBlur={() => keep()}
									error={wrong[`fittings.${f.id}.up`]}
								/>
								<QuietButton onPress={() => keep({ ...draft, fittings: fittings.filter((o) => o.id !== f.id) })}>
									Take {f.id} away
								</QuietButton>
							</Columns>
						))}
						<Row>
							<PlainButton onPress={addFitting}>Add a chimney, skylight, pipe or curb</PlainButton>
						</Row>
					</Stack>
				</Box>
			)}
		</Stack>
	);
}

interface MassFormProps {
	mass: Mass;
	others: Mass[];
	account: Schemas["MassAccount"] | undefined;
	coverings: { id: string; name: string }[];
	wrong: Record<string, string>;
	set: (part: Partial<Mass>, now?: boolean) => void;
	keep: () => void;
	remove: (() => void) | undefined;
}

function MassForm({ mass: m, others, account, coverings, wrong, set, keep, remove }: MassFormProps) {
	const of = (part: string) => wrong[`masses.${m.id}.${part}`];
	const typed = (
		part: "name" | "length" | "depth" | "eave" | "overhang" | "break_at" | "upper_pitch" | "ends_from",
		label: string,
	) => <Field label={label} value={m[part] ?? ""} onChange={(v) => set({ [part]: v })} onBlur={keep} error={of(part)} />;
	const other = others.find((o) => o.id === m.against?.mass);
	return (
		<Box data-wrong={Object.keys(wrong).some((k) => k.startsWith(`masses.${m.id}.`))} aria-label={`Mass ${m.id}, ${m.name}`}>
			<Row $between>
				<h2>
					{m.id} · {m.name}
				</h2>
				{remove && <QuietButton onPress={remove}>Take away</QuietButton>}
			</Row>
			<Columns>
				{typed("name", "Name")}
				{typed("length", "Length, left to right from the front")}
				{typed("depth", "Depth, front to rear")}
				{typed("eave", "Eave height at the wall line")}
				{typed("overhang", "Overhang")}
				<Chooser
					label="Form"
					choices={FORMS}
					value={m.form}
					onChange={(k) => k && set({ form: k as Mass["form"], ...asked(k as Mass["form"], m) }, true)}
				/>
				{["gable", "half-hip", "gambrel"].includes(m.form) && (
					<Chooser
						label="The ridge runs"
						choices={WAYS}
						value={m.ridge ?? "across"}
						onChange={(k) => k && set({ ridge: k as Schemas["RidgeWay"] }, true)}
					/>
				)}
				{m.form === "shed" && (
					<Chooser
						label="Falls to"
						choices={FACE_NAMES}
						value={m.falls_to ?? null}
						onChange={(k) => k && set({ falls_to: k as Face }, true)}
					/>
				)}
				{(m.form === "gambrel" || m.form === "mansard") && (
					<>
						{typed("break_at", "Height at which its slopes break")}
						{typed("upper_pitch", "Pitch above the break: 4:12")}
					</>
				)}
				{m.form === "half-hip" && typed("ends_from", "Height its ends slope from")}
				<Chooser
					label="Covering"
					choices={coverings}
					value={m.covering ?? null}
					onChange={(covering) => set({ covering }, true)}
				/>
				{m.form !== "flat" && m.pitch && (
					<PitchFields pitch={m.pitch} error={of("pitch")} set={(pitch, now) => set({ pitch }, now)} keep={keep} />
				)}
				{others.length > 0 && m.against && (
					<>
						<Chooser
							label="Stands against"
							choices={others.map((o) => ({ id: o.id, name: o.name }))}
							value={m.against.mass}
							onChange={(k) => k && m.against && set({ against: { ...m.against, mass: k } }, true)}
						/>
						<Chooser
							label={`At the face of the ${other?.name ?? "other"}`}
							choices={FACE_NAMES.filter((f) => FACES.includes(f.id))}
							value={m.against.face}
							onChange={(k) => k && m.against && set({ against: { ...m.against, face: k as Face } }, true)}
						/>
						<Field
							label="From that face's left end, seen from outside"
							value={m.against.from_left}
							onChange={(v) => m.against && set({ against: { ...m.against, from_left: v } })}
							onBlur={keep}
							error={of("from_left")}
						/>
						<Field
							label="In from that face, if it stands on that roof"
							value={m.against.inward ?? ""}
							onChange={(v) => m.against && set({ against: { ...m.against, inward: v } })}
							onBlur={keep}
							placeholder="outside"
							error={of("inward")}
						/>
						<Tick
							value={m.against.runs_on ?? false}
							onChange={(v) => m.against && set({ against: { ...m.against, runs_on: v } }, true)}
						>
							Its roof runs on into that slope
						</Tick>
					</>
				)}
			</Columns>
			{m.form !== "flat" && (
				<Folded head={differing(m)}>
					<Soft>Empty is as for the whole. Heights are those of the roof plane at the wall line.</Soft>
					{FACE_NAMES.map((f) => (
						<Columns key={f.id} role="group" aria-label={`${f.name} side of ${m.name}`}>
							{(["eave", "pitch", "overhang"] as const).map((part) => (
								<Field
									key={part}
									label={`${f.name}: ${part === "eave" ? "eave height" : part}`}
									value={m.faces?.[f.id]?.[part] ?? ""}
									onChange={(v) => set({ faces: { ...m.faces, [f.id]: { ...AS_THE_WHOLE, ...m.faces?.[f.id], [part]: v } } })}
									onBlur={keep}
									error={of(`faces.${f.id}.${part}`)}
								/>
							))}
						</Columns>
					))}
				</Folded>
			)}
			{(of("form") || of("against") || of("id")) && <p role="alert">{of("form") ?? of("against") ?? of("id")}</p>}
			{account?.pitch && (
				<Soft>
					Pitch {account.pitch.in_12.toFixed(2)}:12, {account.pitch.degrees.toFixed(1)}°, {account.pitch.percent.toFixed(0)} %.{" "}
					{account.pitch.rule}: between {((account.pitch.range[0] ?? 0) * 12).toFixed(1)} and{" "}
					{((account.pitch.range[1] ?? 0) * 12).toFixed(1)}:12.
				</Soft>
			)}
		</Box>
	);
}

/** What was measured otherwise, in a line. */
function differing(m: Mass): string {
	const own = FACE_NAMES.filter((f) => Object.values(m.faces?.[f.id] ?? {}).some((x) => x));
	return own.length === 0 ? "Sides that differ: none" : `Sides that differ: ${own.map((f) => f.name.toLowerCase()).join(", ")}`;
}

/** A pitch, by the way it was had. */
function PitchFields({
	pitch,
	error,
	set,
	keep,
}: {
	pitch: Pitch;
	error: string | undefined;
	set: (p: Pitch, now?: boolean) => void;
	keep: () => void;
}) {
	const u = useShown();
	const part = (label: string, key: string, value: string, first = false): ReactNode => (
		<Field
			key={key}
			label={label}
			value={String(value)}
			onChange={(v) => set({ ...pitch, [key]: v } as Pitch)}
			onBlur={keep}
			error={first ? error : undefined}
		/>
	);
	return (
		<>
			<Chooser
				label="Pitch, how it was had"
				choices={HOW}
				value={pitch.how}
				onChange={(k) => k && k !== pitch.how && set(begins(u.start)[k as Pitch["how"]], true)}
			/>
			{pitch.how === "typed" && part("Pitch: 6:12, 26.6°, 50 %", "text", pitch.text, true)}
			{pitch.how === "level-and-stick" && [
				part("Length of the level", "level", pitch.level, true),
				part("From its free end down to the slope", "drop", pitch.drop),
			]}
			{pitch.how === "heights" && [
				part("Lower height", "low", pitch.low, true),
				part("Higher height", "high", pitch.high),
				part("Run between them", "run", pitch.run),
			]}
			{pitch.how === "courses" && [
				<NumberBox
					key="courses"
					label="Courses"
					value={pitch.courses}
					least={0}
					onChange={(n) => set({ ...pitch, courses: Math.round(n ?? 0) }, true)}
					error={error}
				/>,
				part("Exposure of one", "exposure", pitch.exposure),
				part("Rise over them", "rise", pitch.rise),
			]}
		</>
	);
}

export type { RoofRecord };
