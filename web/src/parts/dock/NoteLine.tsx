import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import styled from "styled-components";
import { newId, type Schemas } from "../../api/client";
import { ask, type JobView, type NoteRecord, useChoices, useKeepLine, useSaveNote, useSavePractice } from "../../api/queries";
import { placeOf, useWhere } from "../../app/where";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Finder } from "../../design/choices";
import { Area, Field, FieldLabel } from "../../design/fields";
import { Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { at, hairline, size, tone } from "../../design/tokens";
import { useStay } from "../draft/useHalf";

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
	.correction { border-color: ${tone.brick}; text-decoration: line-through; }
	i { font-style: normal; color: ${tone.ochre}; font-size: ${size.small}; }
`;
const Read = styled.li`display: grid; gap: 4px; padding: 6px 0; border-top: ${hairline}; font-size: ${size.small};`;
const Readings = styled.ul`${at.phone} { max-height: 32vh; overflow: auto; }`;

type ReadNote = Schemas["ReadNote"];

const KINDS: Partial<Record<ReadNote["kind"], string>> = {
	good: "Done right",
	limitation: "Could not be seen",
	side: "For another trade",
	recommendation: "To do",
};

const NONE = "";

/** What a correcting line does to the note before it. */
function whatItCorrects(c: NonNullable<Schemas["Reading"]["correction"]>, view: JobView): string {
	const last = view.notes[view.notes.length - 1]?.body.text ?? "the note before";
	const short = last.length > 50 ? `${last.slice(0, 50)}…` : last;
	switch (c.what) {
		case "drop-last":
			return `Takes back “${short}”.`;
		case "move-last":
			return `Moves “${short}” to ${[c.face, c.zone?.replace("-", " ")].filter(Boolean).join(", ")}.`;
		case "replace-last":
			return `Stands in place of “${short}”.`;
		default:
			return `Gives “${short}” this reading.`;
	}
}

/** Keeps the words of a reading that was put right, so that they are read so from now on. */
function OwnWord({ view, note, means }: { view: JobView; note: ReadNote; means: string }) {
	const practices = useQuery(ask.practices()).data;
	const save = useSavePractice();
	const [said, setSaid] = useState(note.left_over || note.text);
	const name = view.practice.name || view.job.body.brief?.practice || "Usual practice";
	const known = practices?.practices.find((p) => p.body.name === name);
	const words = said.trim().split(/\s+/).length;
	return (
		<Row $gap={6}>
			<div style={{ flex: 1 }}>
				<Field label="Words that mean this from now on" value={said} onChange={setSaid} />
			</div>
			<PlainButton
				isDisabled={!practices || !said.trim() || words > 6}
				onPress={() =>
					save.mutate(
						{
							id: known?.id ?? newId(),
							base: known?.rev ?? null,
							body: {
								...(known?.body ?? { name, units: "metric" as const }),
								own_word: [...(known?.body.own_word ?? []), { said: said.trim().toLowerCase(), means }],
							},
						},
						{ onSuccess: () => say(`“${said.trim()}” is an own word of ${name} now.`) },
					)
				}
			>
				Remember
			</PlainButton>
		</Row>
	);
}

/** What one note of the line was read as, and the way to say otherwise. */
function ReadAs({
	view,
	note,
	chosen,
	onChoose,
}: {
	view: JobView;
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
					<b>{row?.name ?? KINDS[note.kind] ?? (note.measures.length > 0 ? "Measurement" : "Note in your words")}</b>
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
			{note.trade && <Soft>For another trade: ask the {note.trade.toLowerCase()}.</Soft>}
			{chosen && chosen !== note.condition && !open && <OwnWord view={view} note={note} means={chosen} />}
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
	const everyPage = `/jobs/${view.job.id}`;
	// What is on the line, and what was refused from it, stay with the job whatever page is looked at meanwhile.
	const [line, setLine] = useStay(`${view.job.id} note line`, "", (l) => l.trim() !== "", everyPage);
	const [settled, setSettled] = useState("");
	const [chosen, setChosen] = useState<Record<number, string | null>>({});
	const [refused, setRefused] = useStay<string[]>(`${view.job.id} lines refused`, [], (all) => all.length > 0, everyPage);
	const keep = useKeepLine(view.job.id);
	const move = useSaveNote(view.job.id);
	const [elsewhere, setElsewhere] = useState<{ words: string; note: NoteRecord; set: Schemas["Place"] } | null>(null);
	const putBack = () => {
		if (!elsewhere) return;
		const { note, set } = elsewhere;
		setElsewhere(null);
		move.mutate(
			{ id: note.id, base: note.rev, body: { ...note.body, place: set } },
			{ onSuccess: () => say("Put back where it was.") },
		);
	};
	const place = placeOf(where.cell);
	const front = view.job.body.brief?.front_faces ?? null;
	const own = view.practice.own_word ?? [];

	useEffect(() => {
		const timer = setTimeout(() => setSettled(line), 60);
		return () => clearTimeout(timer);
	}, [line]);
	const reading = useQuery({
		...ask.reading(settled, place, front, own),
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
		keep.mutateAsync({ line: sent, place, conditions: settled === sent ? conditions : [], done_right }).then(
			(kept) => {
				if (kept.corrected) say(kept.corrected);
				if (kept.counted) say(kept.counted);
				const gone = kept.elsewhere?.[0];
				const note = gone && kept.notes[gone.note];
				setElsewhere(gone && note ? { words: gone.words, note, set: gone.set } : null);
				if (kept.moved) return where.setCell(kept.moved.zone === "inside" ? "inside" : `${kept.moved.face}.${kept.moved.zone}`);
				const first = kept.notes[0]?.body.place;
				const other = first && (first.zone !== place.zone || (first.face ?? null) !== (place.face ?? null));
				if (other && !gone) say(`Kept at ${[first.face, first.zone.replace("-", " ")].filter(Boolean).join(", ")}.`);
			},
			// The next line may be half typed by now: one that was refused waits beside it.
			() => sent.trim() && setRefused((all) => [...all, sent]),
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
					<Area
						id="note-line"
						rows={line.length > 38 ? 2 : 1}
						aria-labelledby="note-line-label"
						aria-describedby="note-line-read"
						autoComplete="off"
						spellCheck={false}
						value={line}
						placeholder="gutter end no downspout"
						onChange={(e) => {
							setLine(e.target.value);
							setChosen({});
						}}
						onKeyDown={(e) => {
							// On an empty line one key puts back what went elsewhere.
							if (e.key === "Escape" && elsewhere && !line.trim()) putBack();
							else if (e.key === "Escape") e.currentTarget.blur();
							// Enter keeps the line, however tall it has grown.
							if (e.key === "Enter" && !e.shiftKey && !e.nativeEvent.isComposing) {
								e.preventDefault();
								send(false);
							}
						}}
					/>
				</div>
				<MainButton type="submit" isDisabled={!line.trim()}>
					Keep
				</MainButton>
			</Entry>
			{elsewhere && (
				<Row $gap={6} role="status">
					<Soft>{elsewhere.words}</Soft>
					<QuietButton onPress={putBack}>Put it back (Esc)</QuietButton>
				</Row>
			)}
			{refused.map((r, i) => (
				<Row key={`${i.toString()} ${r}`} $gap={6} role="alert">
					<Soft>Not kept: “{r}”</Soft>
					<QuietButton
						onPress={() => {
							setLine(line.trim() ? `${line} ${r}` : r);
							setRefused(refused.filter((_, k) => k !== i));
						}}
					>
						Put it back on the line
					</QuietButton>
				</Row>
			))}
			<div id="note-line-read" aria-live="polite">
				{current ? (
					<>
						<Understood aria-hidden="true">
							{current.fragments.map((f) =>
								f.kind === "rest" ? (
									<span key={f.span.start}>{f.text}</span>
								) : (
									<span key={f.span.start}>
										<u className={f.kind} title={f.meaning}>
											{f.text}
										</u>
										{f.read_as && <i> (read as {f.read_as})</i>}
									</span>
								),
							)}
						</Understood>
						<Readings>
							{current.notes.map((n, i) => (
								<ReadAs
									key={`${i.toString()} ${n.text}`}
									view={view}
									note={n}
									chosen={chosen[i]}
									onChoose={(id) => setChosen({ ...chosen, [i]: id })}
								/>
							))}
						</Readings>
						{current.correction && <Soft>{whatItCorrects(current.correction, view)}</Soft>}
						{current.moved && current.notes.length === 0 && (
							<Soft>
								Moves on to{" "}
								{[current.moved.face, current.moved.room, current.moved.zone.replace("-", " ")].filter(Boolean).join(", ")}.
							</Soft>
						)}
						{current.again && <Soft>The same finding again, here.</Soft>}
						{current.doubts?.map((d) => (
							<Soft key={d} style={{ color: tone.ochre }}>
								{d}
							</Soft>
						))}
						{current.notes.length > 0 && <QuietButton onPress={() => send(true)}>Keep as done right</QuietButton>}
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
