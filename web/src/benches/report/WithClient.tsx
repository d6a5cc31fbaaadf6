import { useState } from "react";
import { Link } from "react-router";
import { newId, type Schemas } from "../../api/client";
import { type JobView, saveSaid, useSaveLink } from "../../api/queries";
import { ButtonLink, MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Columns, Figures, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { Clashes } from "../../parts/draft/Clashes";
import { useDraft } from "../../parts/draft/useDraft";
import { newLinkKey, sha256 } from "./keys";

const KINDS: Record<Schemas["SaidKind"], string> = {
	asked: "They asked",
	knew: "They knew",
	"show-me": "Show me there",
	told: "Shown and said",
	question: "Question from the client's page",
};

/** A day some weeks from now, as a date field writes it. */
const inDays = (n: number) => new Date(Date.now() + n * 864e5).toISOString().slice(0, 10);

/** With the client: the walk-back, the client's page under its links, what was said. */
export function WithClient({ view, leaving }: { view: JobView; leaving: Schemas["Leaving"] }) {
	const job = view.job.id;
	return (
		<Stack>
			<section aria-label="Walk-back">
				<h2>Walk-back</h2>
				<p>One finding a screen, on a tablet held between two people. What is asked and known is kept with its time.</p>
				<Row>
					<Link to={`/jobs/${job}/walk-back`}>Start the walk-back</Link>
				</Row>
			</section>
			<Links job={job} view={view} links={leaving.links} />
			<section aria-label="What was said">
				<h2>What was said</h2>
				{leaving.said.length === 0 && <Soft>Nothing yet.</Soft>}
				<ul>
					{leaving.said.map((s) => (
						<One key={s.id} job={job} view={view} said={s} />
					))}
				</ul>
			</section>
		</Stack>
	);
}

function Links({ job, view, links }: { job: string; view: JobView; links: Schemas["Record_ClientLink"][] }) {
	const save = useSaveLink(job);
	const [to, setTo] = useState(view.job.body.brief?.recipient ?? "");
	const [until, setUntil] = useState(inDays(60));
	const [made, setMade] = useState<string | null>(null);
	const make = () => {
		const key = newLinkKey();
		const body = { key_hash: sha256(key), to, made_at: new Date().toISOString(), until, withdrawn_at: null };
		save.mutate({ id: newId(), base: null, body }, { onSuccess: () => setMade(`${globalThis.location.origin}/c/${key}`) });
	};
	const today = new Date().toISOString().slice(0, 10);
	const standing = (l: Schemas["ClientLink"]) =>
		l.withdrawn_at
			? `withdrawn on ${l.withdrawn_at.slice(0, 10)}`
			: l.until < today
				? `ended on ${l.until}`
				: `opens until ${l.until}`;
	return (
		<section aria-label="The client's page">
			<h2>The client's page</h2>
			<p>
				The report to be read on a phone, by place, with questions back. Whoever has the address can read it, and nothing else of
				this server.
			</p>
			<Columns>
				<Field label="For whom" value={to} onChange={setTo} />
				<Field label="Last day it opens" type="date" value={until} onChange={setUntil} />
			</Columns>
			<Row>
				<MainButton isDisabled={save.isPending} onPress={make}>
					Make an address
				</MainButton>
				<ButtonLink href={`/api/jobs/${job}/client.html`} download>
					The page as one file
				</ButtonLink>
			</Row>
			{made && (
				<p role="status">
					<b>Copy it now; it is not kept here and cannot be shown again:</b> <Figures>{made}</Figures>{" "}
					<PlainButton
						onPress={() =>
							navigator.clipboard?.writeText(made).then(
								() => say("The address was copied."),
								() => say("The browser does not let it be copied. Mark it and copy it by hand.", { wrong: true }),
							)
						}
					>
						Copy
					</PlainButton>
				</p>
			)}
			<ul aria-label="Addresses">
				{links.map((l) => (
					<li key={l.id}>
						{l.body.to || "For nobody in particular"} <Soft>{standing(l.body)}</Soft>{" "}
						{!l.body.withdrawn_at && (
							<QuietButton
								onPress={() =>
									save.mutate({ id: l.id, base: l.rev, body: { ...l.body, withdrawn_at: new Date().toISOString() } })
								}
							>
								Withdraw it
							</QuietButton>
						)}
					</li>
				))}
			</ul>
		</section>
	);
}

function One({ job, view, said: s }: { job: string; view: JobView; said: Schemas["Record_SaidThing"] }) {
	const editing = useDraft(job, `said ${s.id}`, { value: s.body, rev: s.rev }, saveSaid(job, s.id));
	const finding = view.findings.find((f) => f.note_id === s.body.note_id);
	return (
		<li>
			<Figures>{s.body.at.slice(0, 16).replace("T", " ")}</Figures> <b>{KINDS[s.body.kind]}</b>
			{finding && ` · ${finding.number ?? ""} ${finding.title}`}
			{s.body.text && <p>{s.body.text}</p>}
			{s.body.kind === "question" && (
				<Stack $gap={4}>
					<Clashes draft={editing} what="This answer" />
					<Field
						label="Answer; it is shown on the client's page"
						rows={2}
						value={editing.draft.answer ?? ""}
						onChange={(answer) => editing.type((now) => ({ ...now, answer }))}
						error={editing.wrong.answer}
					/>
					<Row>
						<PlainButton isDisabled={editing.standing === "kept" || editing.standing === "saving"} onPress={() => editing.keep()}>
							Keep the answer
						</PlainButton>
					</Row>
				</Stack>
			)}
		</li>
	);
}
