import { useState } from "react";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { type JobView, saveJob, useChoices } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row, Rule, Soft, Stack } from "../../design/layout";
import { size } from "../../design/tokens";
import { Clashes } from "../../parts/draft/Clashes";
import { halfTyped, typeHalf } from "../../parts/draft/keeper";
import { useDraft } from "../../parts/draft/useDraft";
import { OfBuilding } from "../../parts/OfBuilding";
import { direction, POINTS, whole } from "./read";

const Page = styled(Stack)`max-width: 900px;`;
const Part = styled.div`display: grid; grid-template-columns: minmax(90px, 1fr) minmax(0, 3fr) auto; gap: 10px; align-items: end;`;

const PartsOf = styled.h2`font-size: ${size.text};`;

type Job = Schemas["Job"];
type Brief = NonNullable<Job["brief"]>;

/** A field whose text may not be a value yet: it stays as typed, also while the bench is left, and is sent only when it is one. */
function Typed({
	job,
	label,
	value,
	read,
	onChange,
	hint,
	wrong,
	refused,
}: {
	job: string;
	label: string;
	value: string;
	read: (text: string) => number | null | undefined;
	onChange: (value: number | null) => void;
	hint?: string | undefined;
	wrong: string;
	/** What the server says of the value. */
	refused?: string | undefined;
}) {
	const name = `${job} brief ${label}`;
	const [text, setText] = useState(halfTyped(name) ?? value);
	const parsed = read(text);
	// Another value than the one that was typed here came from elsewhere: it is shown. What is half typed stays.
	const [shown, setShown] = useState(value);
	if (value !== shown) {
		setShown(value);
		if (parsed !== undefined && read(value) !== parsed) setText(value);
	}
	return (
		<Field
			label={label}
			value={text}
			hint={hint}
			error={parsed === undefined ? wrong : refused}
			onChange={(t) => {
				setText(t);
				const v = read(t);
				typeHalf(name, v === undefined ? t : null);
				if (v !== undefined) onChange(v);
			}}
		/>
	);
}

function Parts({
	label,
	parts,
	onChange,
}: {
	label: string;
	parts: Schemas["PartMaterial"][];
	onChange: (parts: Schemas["PartMaterial"][]) => void;
}) {
	const set = (i: number, change: Partial<Schemas["PartMaterial"]>) =>
		onChange(parts.map((p, j) => (i === j ? { ...p, ...change } : p)));
	return (
		<Stack $gap={8}>
			<PartsOf>{label}</PartsOf>
			{parts.map((p, i) => (
				<Part key={`${label}-${i.toString()}`}>
					<Field label="Part" value={p.part ?? ""} onChange={(part) => set(i, { part })} placeholder="main" />
					<Field label="Material" value={p.material ?? ""} onChange={(material) => set(i, { material })} />
					<QuietButton aria-label={`Take out ${p.part || "this part"}`} onPress={() => onChange(parts.filter((_, j) => j !== i))}>
						Take out
					</QuietButton>
				</Part>
			))}
			<Row>
				<PlainButton onPress={() => onChange([...parts, { part: "", material: "" }])}>Add a part</PlainButton>
			</Row>
		</Stack>
	);
}

const AS_PRACTICE = "practice";

/** What is known before the round. Everything but the name is optional; everything is kept as it is entered. */
export function Brief() {
	const view = useOutletContext<JobView>();
	const choices = useChoices();
	const job = view.job.id;
	const editing = useDraft<Job>(job, "job", { value: view.job.body, rev: view.job.rev }, saveJob(job));
	const { draft, wrong, later: keep } = editing;
	const b = draft.brief as Brief;
	const set = (change: Partial<Brief>) => keep({ ...draft, brief: { ...b, ...change } });
	const error = (field: string) => wrong[field];
	const point = (d: number | null | undefined) => (d == null ? "" : `${d}° ${POINTS[Math.round(d / 22.5) % 16]}`);
	return (
		<Page $gap={16}>
			<div>
				<h1>Brief</h1>
				<Soft>Only the name is needed. Everything is kept as you type.</Soft>
			</div>
			<Clashes draft={editing} what="The brief" />
			<Columns>
				<Field label="Name of the place" value={draft.name} onChange={(name) => keep({ ...draft, name })} error={error("name")} />
				<Field label="Address" value={b.address ?? ""} onChange={(address) => set({ address })} error={error("address")} />
				<Chooser
					label="Kind of visit"
					value={b.visit ?? null}
					choices={(choices?.visits ?? []).map((v) => ({ id: v.value, name: v.name }))}
					onChange={(visit) => visit && set({ visit: visit as Schemas["VisitKind"] })}
				/>
				<Field label="Visited on" type="date" value={b.visited_on ?? ""} onChange={(d) => set({ visited_on: d || null })} />
				<Field label="Report due" type="date" value={b.report_due ?? ""} onChange={(d) => set({ report_due: d || null })} />
			</Columns>
			<Field
				label={view.asks}
				rows={3}
				value={b.worries ?? ""}
				onChange={(worries) => set({ worries })}
				hint="What worries the client"
				error={error("worries")}
			/>
			<Rule />
			<Columns>
				<Typed
					job={job}
					label="Front faces"
					value={point(b.front_faces)}
					read={direction}
					onChange={(front_faces) => set({ front_faces })}
					hint={
						b.front_faces != null
							? `${point(b.front_faces)}: the wheel stands in true direction`
							: "Degrees or a point, such as 200 or SSW"
					}
					wrong="Type degrees from 0 to 360, or a point such as SSW."
				/>
				<Typed
					job={job}
					label="Driving rain comes from"
					value={point(b.driving_rain_from)}
					read={direction}
					onChange={(driving_rain_from) => set({ driving_rain_from })}
					hint="Findings on faces that take it move a step sooner"
					wrong="Type degrees from 0 to 360, or a point such as SW."
				/>
				<Typed
					job={job}
					label="Year built"
					value={b.year_built?.toString() ?? ""}
					read={whole}
					onChange={(year_built) => set({ year_built })}
					wrong="Type a year such as 1967."
					refused={error("year_built")}
				/>
				<Typed
					job={job}
					label="Storeys"
					value={b.storeys?.toString() ?? ""}
					read={whole}
					onChange={(storeys) => set({ storeys })}
					wrong="Type a number such as 2."
					refused={error("storeys")}
				/>
			</Columns>
			<Parts label="Walls, by part" parts={b.walls ?? []} onChange={(walls) => set({ walls })} />
			<Parts label="Roofs, by part" parts={b.roofs ?? []} onChange={(roofs) => set({ roofs })} />
			<Field
				label="Papers and statements"
				rows={3}
				value={b.papers ?? ""}
				onChange={(papers) => set({ papers })}
				hint="Permits, what the owner says, dated pictures"
			/>
			<Rule />
			<Columns>
				<Field label="Weather" value={b.weather ?? ""} onChange={(weather) => set({ weather })} />
				<Field label="Who receives the report" value={b.recipient ?? ""} onChange={(recipient) => set({ recipient })} />
				<Field label="Inspector" value={b.inspector ?? ""} onChange={(inspector) => set({ inspector })} />
				<Field label="Practice" value={b.practice ?? ""} onChange={(practice) => set({ practice })} />
				<Chooser
					label="Units of the report and the page"
					value={b.units ?? AS_PRACTICE}
					choices={[
						{ id: AS_PRACTICE, name: "As the practice has it" },
						...(choices?.units ?? []).map((v) => ({ id: v.value, name: v.name })),
					]}
					onChange={(v) => v && set({ units: v === AS_PRACTICE ? null : (v as Schemas["Units"]) })}
				/>
			</Columns>
			<Tick value={b.keep_location ?? false} onChange={(keep_location) => set({ keep_location })}>
				Keep the location that cameras write into pictures when they leave this machine
			</Tick>
			<OfBuilding view={view} />
		</Page>
	);
}
