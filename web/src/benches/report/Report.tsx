import { type UseQueryResult, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-aria-components";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type Finding, type JobView, useSaveJob } from "../../api/queries";
import { ButtonLink, PlainButton } from "../../design/buttons";
import { Gauge } from "../../design/Gauge";
import { Figures, Folded, Hazard, Row, Soft, Stack } from "../../design/layout";
import { TabBar } from "../../design/TabBar";
import { hairline, line, size, tone } from "../../design/tokens";
import { Asked } from "../../parts/Asked";
import { NoteDialog } from "../../parts/note/NoteDialog";
import { PictureDialog } from "../../parts/note/PictureDialog";
import { Afterwards } from "./Afterwards";
import { CloseVisit } from "./CloseVisit";
import { FrontPage } from "./FrontPage";
import { Out } from "./Out";
import { Preview } from "./Preview";
import { WithClient } from "./WithClient";

const Two = styled.div`display: grid; grid-template-columns: minmax(0, 1fr) minmax(280px, 380px); gap: 26px; align-items: start; margin-top: 16px; @media (max-width: 1180px) { grid-template-columns: minmax(0, 1fr); }`;
const Step = styled.section`h2 { padding: 10px 0 4px; border-bottom: ${line}; display: flex; gap: 10px; align-items: center; }`;
const Pressed = styled(Button)`
	display: block;
	width: 100%;
	padding: 8px 4px;
	border: 0;
	border-bottom: ${hairline};
	background: none;
	color: inherit;
	font: inherit;
	text-align: left;
	cursor: pointer;
	&[data-hovered] { background: ${tone.plasterLow}; }
	b { font-weight: 600; }
	small { display: block; font-size: ${size.small}; color: ${tone.inkSoft}; }
`;
const STEPS = ["now", "before-next-rain", "this-season", "next-cycle", "watch", "record"] as const;

function FindingRow({ finding: f, onOpen }: { finding: Finding; onOpen: () => void }) {
	const moved = f.suggestion?.reasons.filter((r) => r.effect !== "start") ?? [];
	return (
		<li>
			<Pressed onPress={onOpen}>
				{f.hazard && <Hazard>Hazard · </Hazard>}
				{f.number != null && <Figures>{f.number}. </Figures>}
				<b>{f.title}</b> <Soft>{f.place}</Soft>
				{f.measures.length > 0 && <small style={{ color: tone.ink }}>{f.measures.join(" · ")}</small>}
				{f.judged && (
					<small style={{ color: tone.ink }}>
						{f.judged.sum} <Soft>(rule: {f.judged.school})</Soft>
					</small>
				)}
				{f.bundle && <small>{f.bundle}</small>}
				{!f.in_report && <small>Left out of the report, as the practice reports material defects only.</small>}
				{f.by_hand ? (
					<small>
						Set by hand: {f.by_hand} (suggested: {f.suggestion?.step.replaceAll("-", " ") ?? "none"})
					</small>
				) : (
					moved.length > 0 && <small>{moved.map((r) => r.text).join(" ")}</small>
				)}
				{f.recommendation && (
					<small>
						{f.recommendation} {f.trade && `(${f.trade})`}
					</small>
				)}
			</Pressed>
		</li>
	);
}

/** The first page and the findings in the order they are dealt with, beside the report as it will print. */
function WhatIsInIt({
	view,
	leaves,
	onNote,
}: {
	view: JobView;
	leaves: UseQueryResult<Schemas["Leaving"], unknown>;
	onNote: (id: string) => void;
}) {
	// The first page stands over the findings: they wait for it, or a row would move away under the finger that presses it. Where it
	// cannot be had they do not.
	if (leaves.isPending && leaves.failureCount === 0) return <div aria-busy="true" />;
	const of = (section: Finding["section"]) => view.findings.filter((f) => f.section === section);
	const main = of("findings");
	const others = [
		{ name: "Done right", list: of("good"), colour: tone.verdigris },
		{ name: "For other trades", list: of("side") },
		{ name: "What could not be seen", list: of("limits") },
		{ name: "Not in the report", list: of("left-out") },
	].filter((o) => o.list.length > 0);
	const steps = STEPS.map((s) => ({ step: s, list: main.filter((f) => f.urgency === s) })).filter((s) => s.list.length > 0);
	return (
		<Two>
			<Stack $gap={8}>
				<Asked question={leaves}>{({ front }) => <FrontPage front={front} />}</Asked>
				{main.length === 0 && <p>No findings yet. They appear here as the round goes.</p>}
				{steps.map(({ step, list }) => (
					<Step key={step} aria-label={list[0]?.urgency_words ?? step}>
						<h2>
							<Gauge ticks={list[0]?.ticks ?? 0} />
							{list[0]?.urgency_words}
							<Soft>{list.length}</Soft>
						</h2>
						<ul>
							{list.map((f) => (
								<FindingRow key={f.note_id} finding={f} onOpen={() => onNote(f.note_id)} />
							))}
						</ul>
					</Step>
				))}
				{others.map(({ name, list, colour }) => (
					<Step key={name} aria-label={name}>
						<h2 style={colour ? { color: colour } : undefined}>{name}</h2>
						<ul>
							{list.map((f) => (
								<FindingRow key={f.note_id} finding={f} onOpen={() => onNote(f.note_id)} />
							))}
						</ul>
					</Step>
				))}
			</Stack>
			<Preview view={view} trades={leaves.data?.trades ?? []} />
		</Two>
	);
}

/** The findings in the order they are dealt with, the report as it will print, what is missing before it goes out, and the client. */
export function Report() {
	const view = useOutletContext<JobView>();
	const job = view.job.id;
	const [note, setNote] = useState<string | null>(null);
	const [picture, setPicture] = useState<string | null>(null);
	const [closing, setClosing] = useState(false);
	const save = useSaveJob(job);
	const [part, choose] = useState("found");
	const leaves = useQuery(ask.leaving(job));
	return (
		<>
			<Row $between>
				<div>
					<h1>Report</h1>
					<Soft>{view.coverage.sentence}</Soft>
					{view.closing.gap.places.length > 0 && (
						<Folded head={`${view.closing.gap.sentence} This is printed.`}>
							<Soft>{view.closing.gap.places.join("; ")}</Soft>
						</Folded>
					)}
				</div>
				<Row>
					<ButtonLink href={`/api/jobs/${job}/bundle.zip`} download>
						Bundle
					</ButtonLink>
					<ButtonLink href={`/api/jobs/${job}/findings.csv`} download>
						Findings as CSV
					</ButtonLink>
					{view.closing.closed ? (
						<PlainButton onPress={() => save.mutate({ base: view.job.rev, body: { ...view.job.body, closed_at: null } })}>
							Open the visit again
						</PlainButton>
					) : (
						<PlainButton onPress={() => setClosing(true)}>Close the visit</PlainButton>
					)}
				</Row>
			</Row>
			<TabBar
				label="Parts of the report"
				chosen={part}
				onChoose={(p) => {
					choose(p);
					// A download is no change of the job, so nothing else asks anew what left the house.
					if (p === "out") void leaves.refetch();
				}}
				tabs={[
					{ id: "found", name: "What is in it" },
					{ id: "out", name: "Before it goes out" },
					{ id: "client", name: "With the client" },
					{ id: "after", name: "Afterwards" },
				]}
			>
				{part === "found" && <WhatIsInIt view={view} leaves={leaves} onNote={setNote} />}
				{part === "out" && <Asked question={leaves}>{(leaving) => <Out view={view} leaving={leaving} onNote={setNote} />}</Asked>}
				{part === "client" && <Asked question={leaves}>{(leaving) => <WithClient view={view} leaving={leaving} />}</Asked>}
				{part === "after" && <Afterwards view={view} />}
			</TabBar>
			{closing && <CloseVisit view={view} onClose={() => setClosing(false)} />}
			{note && view.notes.some((n) => n.id === note) && (
				<NoteDialog view={view} id={note} onClose={() => setNote(null)} onPicture={setPicture} />
			)}
			{picture && view.pictures.some((p) => p.id === picture) && (
				<PictureDialog view={view} id={picture} onClose={() => setPicture(null)} />
			)}
		</>
	);
}
