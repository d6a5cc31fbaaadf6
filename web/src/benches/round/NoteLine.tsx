import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type JobView, useChoices, useKeepLine } from "../../api/queries";
import { placeOf, useWhere } from "../../app/where";
import { say } from "../../design/Notices";
import { FieldLabel, Finder, MainButton, PlainButton, QuietButton, Row, Soft, Stack, TextInput } from "../../design/primitives";
import { at, hairline, size, tone } from "../../design/tokens";

const Form = styled.form`display: grid; gap: 8px;`;
const Entry = styled.div`display: grid; grid-template-columns: 1fr auto; gap: 8px; align-items: end;`;
const Understood = styled.p`
	min-height: 26px;
	font-size: ${size.text};
	overflow-wrap: anywhere;
	u { text-decoration: none; border-bottom: 2.5px solid; }
	.condition { border-color: ${tone.copper}; }
	.component { border-color: ${tone.verdigris}; }
	.measure { border-color: ${tone.inkSoft}; border-bottom-style: double; border-bottom-width: 4px; }
	.place { border-color: ${tone.ink}; border-bottom-style: dotted; }
	.extent, .certainty, .praise { border-color: ${tone.ochre}; border-bottom-style: dashed; }
`;
const Read = styled.li`display: grid; gap: 4px; padding: 6px 0; border-top: ${hairline}; font-size: ${size.small};`;
const Readings = styled.ul`${at.phone} { max-height: 32vh; overflow: auto; }`;

type ReadNote = Schemas["ReadNote"];

const NONE = "";

/** What one note of the line was read as, and the way to say otherwise. */
function ReadAs({
	note,
	chosen,
	onChoose,
}: {
	note: ReadNote;
	chosen: string | null | undefined;
	onChoose: (id: string | null) => void;
}) {
	const choices = useChoices();
	const [open, setOpen] = useState(false);
	const id = chosen === undefined ? note.condition : chosen || null;
	const row = choices?.conditions.find((c) => c.id === id);
	const others = note.candidates.filter((c) => c.condition !== id);
	const more = [note.component?.replaceAll("-", " "), ...note.measures.map((m) => m.text), note.extent ?? ""]
		.filter(Boolean)
		.join(" · ");
	return (
		<Read>
			<Row $between $gap={6}>
				<span>
					<b>
						{row?.name ?? (note.kind === "good" ? "Done right" : note.measures.length > 0 ? "Measurement" : "Note in your words")}
					</b>
					{more && ` · ${more}`}
				</span>
				<QuietButton onPress={() => setOpen(!open)}>{open ? "Leave it" : "Change"}</QuietButton>
			</Row>
			{!id && others.length > 0 && !open && (
				<Row $gap={6}>
					<Soft>Or:</Soft>
					{others.map((c) => (
						<PlainButton key={c.condition} onPress={() => onChoose(c.condition)}>
							{c.name}
						</PlainButton>
					))}
				</Row>
			)}
			{note.left_over && <Soft>Kept as text: {note.left_over}</Soft>}
			{open && (
				<Finder
					label="What it is"
					value={id ?? NONE}
					choices={[
						{ id: NONE, name: "None of these; keep my words" },
						...(choices?.conditions ?? []).map((c) => ({ id: c.id, name: c.name, more: `${c.group} · ${c.sees}` })),
					]}
					onChange={(v) => {
						if (v === null) return;
						onChoose(v);
						setOpen(false);
					}}
				/>
			)}
		</Read>
	);
}

/** One line for what is seen. What it was understood as shows while it is typed. */
export function NoteLine({ view }: { view: JobView }) {
	const where = useWhere();
	const [line, setLine] = useState("");
	const [settled, setSettled] = useState("");
	const [chosen, setChosen] = useState<Record<number, string | null>>({});
	const keep = useKeepLine(view.job.id);
	const place = placeOf(where.cell);
	const front = view.job.body.brief?.front_faces ?? null;

	useEffect(() => {
		const timer = setTimeout(() => setSettled(line), 60);
		return () => clearTimeout(timer);
	}, [line]);
	const reading = useQuery({
		...ask.reading(settled, place, front),
		enabled: settled.trim() !== "",
		placeholderData: keepPreviousData,
	});
	const current = line.trim() === "" ? undefined : reading.data;

	const send = (done_right: boolean) => {
		if (!line.trim() && !done_right) return;
		const sent = line;
		const conditions = (current?.notes ?? []).map((_, i) => chosen[i] ?? null);
		// The line is free for the next note at once; it comes back if it could not be kept.
		setLine("");
		setSettled("");
		setChosen({});
		keep.mutate(
			{ line: sent, place, conditions: settled === sent ? conditions : [], done_right },
			{
				onError: () => setLine((now) => now || sent),
				onSuccess: (kept) => {
					const first = kept.notes[0]?.body.place;
					const elsewhere = first && (first.zone !== place.zone || (first.face ?? null) !== (place.face ?? null));
					if (elsewhere) say(`Kept at ${[first.face, first.zone.replace("-", " ")].filter(Boolean).join(", ")}.`);
				},
			},
		);
	};

	return (
		<Form
			onSubmit={(e) => {
				e.preventDefault();
				send(false);
			}}
		>
			<Entry>
				<div>
					<FieldLabel id="note-line-label">Note line</FieldLabel>
					<TextInput
						id="note-line"
						aria-labelledby="note-line-label"
						aria-describedby="note-line-read"
						autoComplete="off"
						spellCheck={false}
						value={line}
						placeholder="gutter end no downspout, fascia rot 2 ft"
						onChange={(e) => {
							setLine(e.target.value);
							setChosen({});
						}}
						onKeyDown={(e) => e.key === "Escape" && e.currentTarget.blur()}
					/>
				</div>
				<MainButton type="submit" isDisabled={!line.trim()}>
					Keep
				</MainButton>
			</Entry>
			<div id="note-line-read" aria-live="polite">
				{current ? (
					<>
						<Understood aria-hidden="true">
							{current.fragments.map((f) =>
								f.kind === "rest" ? (
									<span key={f.span.start}>{f.text}</span>
								) : (
									<u key={f.span.start} className={f.kind} title={f.meaning}>
										{f.text}
									</u>
								),
							)}
						</Understood>
						<Readings>
							{current.notes.map((n, i) => (
								<ReadAs key={n.text} note={n} chosen={chosen[i]} onChoose={(id) => setChosen({ ...chosen, [i]: id })} />
							))}
						</Readings>
						<QuietButton onPress={() => send(true)}>Keep as done right</QuietButton>
					</>
				) : (
					<Soft>Type what you see. Enter keeps it.</Soft>
				)}
			</div>
		</Form>
	);
}

export function LatestNotes({ view }: { view: JobView }) {
	const where = useWhere();
	const latest = view.notes.slice(-3).reverse();
	if (latest.length === 0) return null;
	return (
		<Stack $gap={2}>
			<Soft>Latest</Soft>
			<ul>
				{latest.map((n) => {
					const f = view.findings.find((x) => x.note_id === n.id);
					return (
						<li key={n.id}>
							<QuietButton
								style={{ minHeight: 32, textAlign: "left", padding: 0 }}
								onPress={() =>
									where.setCell(n.body.place.zone === "inside" ? "inside" : `${n.body.place.face}.${n.body.place.zone}`)
								}
							>
								{f?.title ?? n.body.text}
							</QuietButton>
						</li>
					);
				})}
			</ul>
		</Stack>
	);
}
