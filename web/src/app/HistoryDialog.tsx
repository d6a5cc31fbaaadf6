import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../api/client";
import { ask, useRedo, useUndo } from "../api/queries";
import { MainButton, PlainButton, QuietButton } from "../design/buttons";
import { Dialog } from "../design/Dialog";
import { Row, Soft, Stack } from "../design/layout";
import { font, hairline, size, tone } from "../design/tokens";

const Line = styled.li<{ $undone: boolean }>`
	padding: 5px 0;
	border-bottom: ${hairline};
	> span { text-decoration: ${(p) => (p.$undone ? "line-through" : "none")}; }
`;
const Changed = styled.dl`
	display: grid;
	grid-template-columns: minmax(80px, auto) 1fr 1fr;
	gap: 2px 12px;
	font-size: ${size.small};
	dt { color: ${tone.inkSoft}; }
	dd { margin: 0; overflow-wrap: anywhere; font-family: ${font.figures}; }
`;

type HistoryRow = Schemas["HistoryRow"];

/** The fields of two versions that differ, flat. */
function changedFields(before: unknown, after: unknown): [string, string, string][] {
	const flat = (v: unknown, path: string, out: Map<string, string>) => {
		if (v === null || v === undefined) return out;
		if (Array.isArray(v) && v.length === 0) return out;
		if (typeof v === "object") for (const [k, x] of Object.entries(v)) flat(x, path ? `${path} ${k}` : k, out);
		else out.set(path.replaceAll("_", " "), String(v));
		return out;
	};
	const [a, b] = [flat(before, "", new Map()), flat(after, "", new Map())];
	return [...new Set([...a.keys(), ...b.keys()])]
		.filter((k) => a.get(k) !== b.get(k))
		.map((k) => [k, a.get(k) ?? "", b.get(k) ?? ""]);
}

function Details({ row }: { row: HistoryRow }) {
	const fields = changedFields(row.before, row.after).slice(0, 14);
	return (
		<Changed>
			<dt>What</dt>
			<dt>Before</dt>
			<dt>After</dt>
			{fields.flatMap(([k, was, is]) => [
				<dt key={k}>{k}</dt>,
				<dd key={`${k} was`}>{was || "—"}</dd>,
				<dd key={`${k} is`}>{is || "—"}</dd>,
			])}
		</Changed>
	);
}

/** The job as it was: its notes, soonest first, and what had been seen. Nothing can be changed there. */
function Then({ job, row, onClose }: { job: string; row: HistoryRow; onClose: () => void }) {
	const { data, error } = useQuery(ask.asItWas(job, row.seq));
	return (
		<Dialog title={`As it was on ${new Date(row.at).toLocaleString()}`} isOpen onClose={onClose}>
			<Stack>
				<Soft>After “{row.sentence}”. This is for looking; the job itself stays as it is.</Soft>
				{error && <p role="alert">{error.message}</p>}
				{data && (
					<>
						<p>
							<b>{data.job.body.name}</b>. {data.coverage.sentence}
						</p>
						{data.findings.length === 0 && <p>No notes yet.</p>}
						<ul>
							{data.findings.map((f) => (
								<li key={f.note_id}>
									<b>{f.title}</b> <Soft>{[f.place, f.urgency_words, ...f.measures].join(" · ")}</Soft>
								</li>
							))}
						</ul>
					</>
				)}
			</Stack>
		</Dialog>
	);
}

/** Everything that was changed, newest first. */
export function HistoryDialog({ job, onClose }: { job: string; onClose: () => void }) {
	const { data } = useQuery(ask.history(job));
	const undo = useUndo(job);
	const redo = useRedo(job);
	const [open, setOpen] = useState<number | null>(null);
	const [then, setThen] = useState<HistoryRow | null>(null);
	return (
		<Dialog title="History" isOpen onClose={onClose} wide>
			<Stack>
				<Row>
					<MainButton onPress={() => undo.mutate(undefined)}>Undo the last change</MainButton>
					<PlainButton onPress={() => redo.mutate(undefined)}>Do it again</PlainButton>
				</Row>
				<ul>
					{data?.map((r) => (
						<Line key={r.seq} $undone={r.undone}>
							<span>{r.sentence}</span>
							{r.undo && <Soft> (undone or done again)</Soft>}
							{r.undone && <Soft> (taken back)</Soft>}
							<Row $gap={4}>
								<Soft>
									{new Date(r.at).toLocaleString()} · {r.who}
								</Soft>
								<QuietButton onPress={() => setOpen(open === r.seq ? null : r.seq)} aria-expanded={open === r.seq}>
									Before and after
								</QuietButton>
								<QuietButton onPress={() => setThen(r)}>The job then</QuietButton>
							</Row>
							{open === r.seq && <Details row={r} />}
						</Line>
					))}
				</ul>
			</Stack>
			{then && <Then job={job} row={then} onClose={() => setThen(null)} />}
		</Dialog>
	);
}
