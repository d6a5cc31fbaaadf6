import { useCallback, useEffect, useRef, useState } from "react";
import { FileTrigger } from "react-aria-components";
import { Link, useOutletContext } from "react-router";
import styled from "styled-components";
import { type Fault, newId, type Schemas } from "../../api/client";
import { type JobView, type Note, readWalk, useChoices, useNewNote } from "../../api/queries";
import { FACES, ZONES } from "../../app/where";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Finder } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Figures, Folded, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { at, hairline, line, size, tone } from "../../design/tokens";
import { useHalf, useStay } from "../../parts/draft/useHalf";

const List = styled.ol`border-top: ${line};`;
const ReviewRow = styled.li<{ $current: boolean; $gone: boolean }>`
	display: grid;
	grid-template-columns: 58px minmax(0, 1fr) auto;
	gap: 2px 12px;
	padding: 8px 8px 8px 10px;
	border-bottom: ${hairline};
	border-left: 4px solid ${(p) => (p.$current ? tone.copper : "transparent")};
	opacity: ${(p) => (p.$gone ? 0.62 : 1)};
	outline: none;
	scroll-margin: 130px 0 40px;
	small { font-size: ${size.small}; color: ${tone.inkSoft}; display: block; }
	${at.phone} { grid-template-columns: minmax(0, 1fr); }
`;

type WalkNote = Schemas["WalkNote"];
type State = "open" | "kept" | "dropped";
interface Proposed {
	id: string;
	note: WalkNote;
	state: State;
}

/** Nobody is quite sure of what was said, and what was heard was not heard for nothing. */
const sure = (chance: number) => Math.max(1, Math.min(99, Math.round(chance * 100)));
const KINDS: Record<string, string> = {
	defect: "To be dealt with",
	good: "Done right",
	measurement: "Reading or fact",
	limitation: "Could not be seen",
	recommendation: "To do",
	side: "For another trade",
	remark: "Remark",
};

function clock(t: number | null | undefined): string {
	if (t == null) return "";
	return `${Math.floor(t / 60)}:${String(Math.floor(t % 60)).padStart(2, "0")}`;
}

const two = (n: number) => String(n).padStart(2, "0");
/** The time of day of a moment, where the page is. */
function clockOf(at: string): string {
	const d = new Date(at);
	return `${two(d.getHours())}:${two(d.getMinutes())}:${two(d.getSeconds())}`;
}
/** A time of day on the day of a moment. */
function onDay(day: string, time: string): string {
	const [h = 0, m = 0, s = 0] = time.split(":").map(Number);
	const d = new Date(day);
	d.setHours(h, m, s, 0);
	return d.toISOString();
}

function asNote(n: WalkNote): Note {
	const face = FACES.find((f) => f === n.face) ?? null;
	return {
		place: {
			face,
			zone: n.zone,
			station: n.station ?? null,
			room: n.room ?? null,
			surface: n.surface ?? null,
		},
		kind: n.kind,
		text: n.text,
		condition: n.condition ?? null,
		component: n.component ?? null,
		measures: n.measures,
		extent: n.extent ?? null,
		certainty: n.certainty,
		limit: n.limit ?? null,
		trade: n.trade ?? null,
		at: new Date().toISOString(),
	} as Note;
}

/** "1 note", "4 notes". */
const many = (n: number, what: string) => `${n} ${what}${n === 1 ? "" : "s"}`;

/** A walk that was recorded, read and waiting: each note is kept, changed or dropped with one key. Nothing is kept unseen. */
export function WalkReview() {
	const view = useOutletContext<JobView>();
	const choices = useChoices();
	const keep = useNewNote(view.job.id);
	// A walk that is looked through stays where it is, whatever bench is looked at meanwhile.
	const part = (name: string) => `${view.job.id} walk ${name}`;
	const [rows, setRows] = useStay<Proposed[]>(part("rows"), [], (all) => all.some((r) => r.state === "open"));
	const [walk, setWalk] = useStay<Schemas["Walk"] | null>(part("read"), null);
	const [maybe, setMaybe] = useStay<WalkNote[]>(part("maybe"), []);
	const [pasted, setPasted] = useHalf(part("pasted"));
	const [wrong, setWrong] = useState("");
	const [text, setText] = useStay<Blob | null>(part("text"), null);
	const [track, setTrack] = useStay<string | null>(part("track"), view.track.at(-1)?.began ?? null);
	const [began, setBegan] = useStay(part("began"), "");
	const [now, setNow] = useState(() =>
		Math.max(
			0,
			rows.findIndex((r) => r.state === "open"),
		),
	);
	const [editing, setEditing] = useState<number | null>(null);
	const list = useRef<HTMLOListElement>(null);

	const read = async (file: Blob, from = "") => {
		try {
			setWrong("");
			const run = view.track.find((t) => t.began === track);
			const w = await readWalk(view.job.id, file, { track: run?.began, began: run && from ? onDay(run.began, from) : undefined });
			setText(file);
			setWalk(w);
			setBegan(w.track?.began ? clockOf(w.track.began) : from);
			setRows(w.notes.map((note) => ({ id: newId(), note, state: "open" })));
			setMaybe(w.maybe);
			setNow(0);
			if (w.notes.length > 0) setPasted("");
		} catch (e) {
			setWrong((e as Fault).message);
		}
	};
	/** What was too unsure to be proposed takes its place among the rows, in the order it was said. */
	const take = (n: WalkNote) => {
		setMaybe((all) => all.filter((x) => x !== n));
		setRows((r) => {
			const before = r.filter((x) => (x.note.t_s ?? 0) <= (n.t_s ?? Number.POSITIVE_INFINITY)).length;
			return [...r.slice(0, before), { id: newId(), note: n, state: "open" }, ...r.slice(before)];
		});
	};
	const putAside = () => {
		setRows([]);
		setMaybe([]);
		setWalk(null);
		setText(null);
		setBegan("");
	};
	const to = useCallback((i: number) => {
		setNow(i);
		list.current?.querySelectorAll<HTMLElement>("li[data-row]")[i]?.focus();
	}, []);
	const mark = (i: number, state: State) => {
		setRows((r) => r.map((x, k) => (k === i ? { ...x, state } : x)));
		const next = rows.findIndex((x, k) => k > i && x.state === "open");
		to(next < 0 ? Math.min(i + 1, rows.length - 1) : next);
	};
	const keepOne = (i: number) => {
		const row = rows[i];
		if (!row || row.state === "kept") return;
		// A face is never guessed: without one the note waits until somebody says where it was.
		if (row.note.zone !== "inside" && !FACES.some((f) => f === row.note.face)) {
			setEditing(i);
			say("Choose the face of this note first; the walk does not say it by a name this job knows.", { wrong: true });
			return;
		}
		keep.mutate({ id: row.id, body: asNote(row.note) }, { onSuccess: () => mark(i, "kept") });
	};
	const change = (i: number, part: Partial<WalkNote>) =>
		setRows((r) => r.map((x, k) => (k === i ? { ...x, note: { ...x.note, ...part } } : x)));
	// biome-ignore lint/correctness/useExhaustiveDependencies: a walk that is read, or come back to, is gone on with where it is
	useEffect(() => {
		if (rows.length > 0 && walk) list.current?.querySelectorAll<HTMLElement>("li[data-row]")[now]?.focus();
	}, [walk, rows.length]);

	/** What a key does to a row. */
	const keyed = (key: string, i: number): (() => void) | undefined => {
		switch (key.toLowerCase()) {
			case "k":
			case "enter":
				return () => keepOne(i);
			case "d":
				return () => mark(i, "dropped");
			case "c":
				return () => setEditing(editing === i ? null : i);
			case "arrowdown":
				return () => to(Math.min(i + 1, rows.length - 1));
			case "arrowup":
				return () => to(Math.max(i - 1, 0));
			default:
				return undefined;
		}
	};

	const count = (s: State) => rows.filter((r) => r.state === s).length;
	return (
		<Stack>
			<div>
				<Row $between>
					<h1>A recorded walk</h1>
					{rows.length > 0 && (
						<QuietButton
							onPress={() => {
								putAside();
								say("The walk was put aside. What was kept of it stays.", {
									action: {
										name: "Take it back",
										run: () => {
											setRows(rows);
											setMaybe(maybe);
											setWalk(walk);
											setText(text);
											setBegan(began);
										},
									},
								});
							}}
						>
							Put this walk aside
						</QuietButton>
					)}
				</Row>
				<Soft>
					Subtitles (WebVTT, SRT) or plain text, with or without times like [3:07]. Nothing is kept until you say so.{" "}
					<Link to="../round" relative="path">
						Back to the round
					</Link>
				</Soft>
			</div>
			{rows.length === 0 && (
				<>
					{view.track.length > 0 && (
						<Columns>
							<Chooser
								label="Places come from"
								value={track ?? ""}
								choices={[
									{ id: "", name: "What is said" },
									...view.track.map((t) => ({
										id: t.began,
										name: `The wheel: ${new Date(t.began).toLocaleDateString()} ${clockOf(t.began)}, ${t.places} ${t.places === 1 ? "place" : "places"}`,
									})),
								]}
								onChange={(t) => setTrack(t || null)}
							/>
						</Columns>
					)}
					<Field label="Paste what was said" rows={7} value={pasted} onChange={setPasted} />
					<Row>
						<MainButton isDisabled={!pasted.trim()} onPress={() => void read(new Blob([pasted]))}>
							Read it
						</MainButton>
						<FileTrigger acceptedFileTypes={[".vtt", ".srt", ".txt", "text/plain"]} onSelect={(f) => f?.[0] && void read(f[0])}>
							<PlainButton>Choose a file</PlainButton>
						</FileTrigger>
					</Row>
				</>
			)}
			{wrong && <p role="alert">{wrong}</p>}
			{walk && (
				<>
					<p role="status">
						{many(rows.length, "note")} read from {many(walk.sentences, "sentence")}; {walk.talk} of talk. {count("kept")} kept,{" "}
						{count("dropped")} dropped, {count("open")} to look at. <b>K</b> keeps, <b>C</b> changes, <b>D</b> drops, arrows go up
						and down.
					</p>
					{walk.track && text && (
						<Stack $gap={4}>
							<p>{walk.track.sentence}</p>
							<Row $gap={8} style={{ alignItems: "flex-end" }}>
								<Field
									label="The recording began at (the wheel's clock)"
									value={began}
									onChange={setBegan}
									placeholder="10:02:11"
								/>
								<PlainButton
									isDisabled={!/^\d{1,2}:\d{2}(:\d{2})?$/.test(began.trim()) || count("kept") > 0}
									onPress={() => void read(text, began.trim())}
								>
									Lay it from then
								</PlainButton>
							</Row>
						</Stack>
					)}
					<List ref={list} aria-label="Notes read from the walk">
						{rows.map((row, i) => {
							const n = row.note;
							const condition = choices?.conditions.find((c) => c.id === n.condition);
							return (
								<ReviewRow
									key={row.id}
									data-row
									$current={i === now}
									$gone={row.state !== "open"}
									tabIndex={i === now ? 0 : -1}
									onFocus={() => setNow(i)}
									onKeyDown={(e) => {
										if (e.target !== e.currentTarget || e.ctrlKey || e.metaKey || e.altKey) return;
										const run = keyed(e.key, i);
										if (run) {
											e.preventDefault();
											e.stopPropagation();
											run();
										}
									}}
								>
									<Figures>{clock(n.t_s)}</Figures>
									<div>
										<b>{condition?.name ?? KINDS[n.kind] ?? n.kind}</b>{" "}
										<Soft>
											{[n.room ?? (n.face ? `${n.face} face` : "no face said"), n.zone.replace("-", " "), n.station]
												.filter(Boolean)
												.join(", ")}
											{n.measures.length > 0 && ` · ${n.measures.map((m) => m.text).join(" · ")}`}
											{n.certainty !== "seen" && ` · ${n.certainty}`}
											{n.condition && ` · ${sure(n.confidence)} % sure`}
											{n.trade && ` · ask: ${n.trade.toLowerCase()}`}
										</Soft>
										<small>“{n.text}”</small>
										{editing === i && row.state === "open" && (
											<Stack $gap={8}>
												<Columns>
													<Finder
														label="What it is"
														value={n.condition ?? null}
														placeholder="No condition; the words stand alone"
														choices={(choices?.conditions ?? []).map((c) => ({ id: c.id, name: c.name, more: c.group }))}
														onChange={(id) => change(i, { condition: id })}
													/>
													<Chooser
														label="Kind"
														value={n.kind}
														choices={Object.entries(KINDS).map(([id, name]) => ({ id, name }))}
														onChange={(k) => k && change(i, { kind: k as WalkNote["kind"] })}
													/>
													<Chooser
														label="Face"
														value={n.face ?? null}
														choices={FACES.map((f) => ({ id: f, name: f }))}
														onChange={(f) => change(i, { face: f })}
													/>
													<Chooser
														label="How high"
														value={n.zone}
														choices={[...ZONES, "inside"].map((z) => ({ id: z, name: z.replace("-", " ") }))}
														onChange={(z) => z && change(i, { zone: z as WalkNote["zone"] })}
													/>
												</Columns>
												<Field label="In your words" rows={2} value={n.text} onChange={(text) => change(i, { text })} />
											</Stack>
										)}
									</div>
									<Row $gap={2}>
										{row.state === "open" ? (
											<>
												<QuietButton onPress={() => keepOne(i)}>Keep</QuietButton>
												<QuietButton onPress={() => setEditing(editing === i ? null : i)}>Change</QuietButton>
												<QuietButton onPress={() => mark(i, "dropped")}>Drop</QuietButton>
											</>
										) : (
											<>
												<Soft>{row.state === "kept" ? "✓ kept" : "dropped"}</Soft>
												{row.state === "dropped" && <QuietButton onPress={() => mark(i, "open")}>Take back in</QuietButton>}
											</>
										)}
									</Row>
								</ReviewRow>
							);
						})}
					</List>
					{maybe.length > 0 && (
						<Folded head={`Maybe (${maybe.length}): too unsure to be proposed`}>
							<ul aria-label="Maybe">
								{maybe.map((n) => (
									<li key={`${n.t_s} ${n.condition} ${n.text}`}>
										<Row $gap={8}>
											<Figures>{clock(n.t_s)}</Figures>
											<span>{choices?.conditions.find((c) => c.id === n.condition)?.name ?? n.condition}</span>
											<Soft>
												{sure(n.confidence)} % sure · “{n.text}”
											</Soft>
											<QuietButton onPress={() => take(n)}>Put it on the list</QuietButton>
										</Row>
									</li>
								))}
							</ul>
						</Folded>
					)}
					{walk.remarks.length > 0 && (
						<Stack $gap={2}>
							<b>Corrections that were followed</b>
							{walk.remarks.map((r) => (
								<Soft key={r}>{r}</Soft>
							))}
						</Stack>
					)}
				</>
			)}
		</Stack>
	);
}
