import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { FileTrigger, Form, Link } from "react-aria-components";
import { useNavigate } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, newJob, undoIn, useDeleteJob, useImport, useNewJob } from "../../api/queries";
import { setTheme, useTheme } from "../../app/theme";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Hazard, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { at, hairline, line, size, target, tone } from "../../design/tokens";

const Page = styled.main`max-width: 1040px; margin: 0 auto; padding: 24px 22px 60px; display: grid; gap: 22px; ${at.phone} { padding: 16px 12px 40px; }`;
const List = styled.ul`border-top: ${line};`;
const Item = styled.li`
	display: grid;
	grid-template-columns: 72px minmax(0, 1fr) minmax(150px, 230px) auto;
	gap: 4px 16px;
	align-items: center;
	padding: 10px 0;
	border-bottom: ${hairline};
	${at.phone} { grid-template-columns: 60px minmax(0, 1fr) auto; > :nth-child(3) { grid-column: 2 / -1; grid-row: 2; } }
`;
const Name = styled(
	Link,
)`font-size: ${size.large}; font-weight: 600; color: ${tone.ink}; display: inline-flex; align-items: center; min-height: ${target};`;
const Start = styled(Form)`display: flex; gap: 10px; align-items: end; flex-wrap: wrap; > :first-child { flex: 1 1 280px; }`;

const Found = styled.li`padding: 8px 0; border-bottom: ${hairline}; mark { background: none; color: inherit; font-weight: 600; border-bottom: 2.5px solid ${tone.copper}; }`;

type Summary = Schemas["JobSummary"];

/** How far the round is: one stroke for each place, filled as it is seen. */
function Progress({ tally }: { tally: Summary["tally"] }) {
	const parts = [
		[tally.seen + tally.noted, tone.verdigris],
		[tally.limited, "url(#limited)"],
		[tally.untouched, "none"],
	] as const;
	let x = 1;
	const unit = 68 / Math.max(1, tally.expected);
	return (
		<svg width="72" height="22" viewBox="0 0 72 22" aria-hidden="true">
			<defs>
				<pattern id="limited" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
					<line x1="0" y1="0" x2="0" y2="5" stroke={tone.inkSoft} strokeWidth="1.6" />
				</pattern>
			</defs>
			{parts.map(([n, fill]) => {
				const at = x;
				x += n * unit;
				return <rect key={fill} x={at} y="4" width={n * unit} height="14" fill={fill} />;
			})}
			<rect x="1" y="4" width="68" height="14" fill="none" stroke={tone.ink} strokeWidth="1.5" />
		</svg>
	);
}

function Job({ job }: { job: Summary }) {
	const remove = useDeleteJob();
	const when = job.visited_on
		? new Date(`${job.visited_on}T12:00`).toLocaleDateString(undefined, { day: "numeric", month: "long", year: "numeric" })
		: "";
	return (
		<Item>
			<Progress tally={job.tally} />
			<div>
				<Name href={`/jobs/${job.id}/round`}>{job.name}</Name>
				<p>
					<Soft>{[job.visit_name, job.address, when].filter(Boolean).join(" · ")}</Soft>
				</p>
			</div>
			<Stack $gap={0}>
				<span>{job.closed ? "Visit closed" : job.due || "No date for the report"}</span>
				<Soft>{job.coverage}</Soft>
				{job.hazards > 0 && <Hazard>Hazard noted</Hazard>}
			</Stack>
			<QuietButton
				aria-label={`Delete ${job.name}`}
				onPress={() =>
					remove.mutate(
						{ id: job.id, base: job.rev },
						{
							onSuccess: () =>
								say(`${job.name} was deleted.`, {
									action: {
										name: "Bring it back",
										run: () => void undoIn(job.id),
									},
								}),
						},
					)
				}
			>
				Delete
			</QuietButton>
		</Item>
	);
}

/** A text whose words between ‹ and › are marked. */
function Marked({ text }: { text: string }) {
	const at = text.indexOf("‹");
	const end = text.indexOf("›", at);
	if (at < 0 || end < 0) return <>{text}</>;
	return (
		<>
			{text.slice(0, at)}
			<mark>{text.slice(at + 1, end)}</mark>
			<Marked text={text.slice(end + 1)} />
		</>
	);
}

/** Notes and jobs that hold the words, newest first. */
function Hits({ words }: { words: string }) {
	const { data } = useQuery(ask.search(words));
	if (!data) return null;
	if (data.length === 0) return <p>Nothing has all of these words.</p>;
	return (
		<List aria-label="Found">
			{data.map((h) => (
				<Found key={`${h.job_id} ${h.note_id ?? ""}`}>
					<Name href={`/jobs/${h.job_id}/round`}>{h.job}</Name>
					<p>
						<Marked text={h.snippet} />
					</p>
				</Found>
			))}
		</List>
	);
}

/** Buildings that were visited, each with its page over the years. */
function Buildings({ all }: { all: Schemas["BuildingRow"][] }) {
	if (all.length === 0) return null;
	return (
		<section aria-label="Buildings">
			<h2>Buildings</h2>
			<List>
				{all.map((b) => (
					<Found key={b.id}>
						<Name href={`/buildings/${b.id}`}>{b.name}</Name>{" "}
						<Soft>{[b.address, b.visits === 1 ? "1 visit" : `${b.visits} visits`].filter(Boolean).join(" · ")}</Soft>
					</Found>
				))}
			</List>
		</section>
	);
}

/** The jobs, and a new one with as little as a name. */
export function Jobs() {
	const [most, setMost] = useState(50);
	const { data, error } = useQuery(ask.jobs(most));
	const buildings = useQuery(ask.buildings());
	const [name, setName] = useState("");
	const [words, setWords] = useState("");
	const start = useNewJob();
	const take = useImport();
	const navigate = useNavigate();
	const theme = useTheme();
	useEffect(() => {
		document.title = "Jobs · Trowel";
	}, []);
	return (
		<Page>
			<Row $between>
				<div>
					<h1>Jobs</h1>
					<Soft>Trowel follows the water, from the ridge to where it leaves the lot.</Soft>
				</div>
				<QuietButton onPress={() => setTheme(theme === "daylight" ? "attic" : "daylight")}>
					{theme === "daylight" ? "Daylight" : "Attic"} theme
				</QuietButton>
			</Row>
			<Start
				onSubmit={(e) => {
					e.preventDefault();
					if (name.trim()) start.mutate(newJob(name.trim()), { onSuccess: (j) => navigate(`/jobs/${j.id}/brief`) });
				}}
			>
				<Field label="Name of the place" value={name} onChange={setName} placeholder="for example Heron Boathouse" />
				<MainButton type="submit" isDisabled={!name.trim()}>
					Start a job
				</MainButton>
				<FileTrigger
					acceptedFileTypes={["application/zip", ".zip"]}
					onSelect={(files) => {
						const file = files?.[0];
						if (file) take.mutate(file, { onSuccess: (j) => say(`${j.body.name} was read in.`) });
					}}
				>
					<PlainButton>Read a bundle in</PlainButton>
				</FileTrigger>
			</Start>
			{error && <p role="alert">{(error as Partial<Error>).message}</p>}
			{data && data.all === 0 && <p>No jobs yet. Type a name above; everything else can come later.</p>}
			{data && data.all > 0 && (
				<>
					<Field
						label="Find in all jobs and notes"
						value={words}
						onChange={setWords}
						placeholder="for example torn boot, or a street"
					/>
					{words.trim() ? (
						<Hits words={words} />
					) : (
						<>
							<List aria-label="Jobs">
								{data.jobs.map((j) => (
									<Job key={j.id} job={j} />
								))}
							</List>
							{data.jobs.length < data.all && (
								<Row>
									<PlainButton onPress={() => setMost(most + 50)}>Show more</PlainButton>
									<Soft>
										{data.jobs.length} of {data.all} jobs
									</Soft>
								</Row>
							)}
						</>
					)}
				</>
			)}
			<Buildings all={buildings.data ?? []} />
			{(data || error) && !buildings.isPending && (
				<Soft>
					Everything stays on this machine. Reports rest on rules of practice; local code and licensed trades decide.{" "}
					<a href="/interface">The interface for programs</a>
				</Soft>
			)}
		</Page>
	);
}
