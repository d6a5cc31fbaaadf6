import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { FileTrigger, Radio, RadioGroup } from "react-aria-components";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import { type Fault, newId, type Schemas } from "../../api/client";
import {
	ask,
	type JobView,
	type Practice as Kept,
	readPractice,
	savePractice,
	useChoices,
	useSaveJob,
	useSavePractice,
} from "../../api/queries";
import { ButtonLink, MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Field } from "../../design/fields";
import { Figures, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { at, corner, hairline, line, size, target, tone } from "../../design/tokens";
import { Clashes } from "../../parts/draft/Clashes";
import { useDraft } from "../../parts/draft/useDraft";

const Bench = styled.div`display: grid; grid-template-columns: minmax(0, 1fr) minmax(250px, 320px); gap: 0 26px; ${at.upright} { grid-template-columns: minmax(0, 1fr); }`;
const Points = styled.div`border-top: ${line}; margin-top: 12px;`;
const PointSheet = styled.section`border-bottom: ${hairline}; padding: 10px 0; h2 { font-size: ${size.text}; }`;
const Schools = styled(RadioGroup)`display: grid;`;
const School = styled(Radio)`
	display: grid;
	grid-template-columns: 22px minmax(0, 1fr);
	gap: 10px;
	min-height: ${target};
	padding: 5px 0;
	align-items: start;
	cursor: pointer;
	> i { width: 18px; height: 18px; margin-top: 2px; border: 1.5px solid ${tone.ink}; border-radius: 50%; display: grid; place-items: center; }
	&[data-selected] > i::after { content: ""; width: 10px; height: 10px; border-radius: 50%; background: ${tone.copper}; }
	&[data-focus-visible] > i { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
	&[data-selected] b { font-weight: 600; }
	b { font-weight: 400; }
`;
const Aside = styled.aside`
	position: sticky;
	top: 66px;
	align-self: start;
	max-height: calc(100dvh - 90px);
	overflow: auto;
	border: ${line};
	border-radius: ${corner};
	padding: 12px 14px;
	display: grid;
	gap: 10px;
	background: ${tone.plasterLow};
	${at.upright} { position: static; order: -1; margin-bottom: 12px; max-height: none; }
	li { padding: 6px 0; border-top: ${hairline}; font-size: ${size.small}; }
	del { color: ${tone.inkSoft}; }
	ins { text-decoration: none; font-weight: 600; }
`;

interface Choice {
	school?: string | null;
	own?: string | null;
	reason: string;
}
const OWN = "own figure";

/** Thresholds that practitioners disagree on, the schools behind them, and which ones this practice follows. */
export function Practice() {
	const view = useOutletContext<JobView>();
	const { data } = useQuery(ask.practices());
	const choices = useChoices();
	const save = useSavePractice();
	const saveJob = useSaveJob(view.job.id);
	const [wrong, setWrong] = useState("");
	const own = view.practice.name || view.job.body.brief?.practice || "Usual practice";
	const there = data?.practices.find((p) => p.body.name === own);
	const at = { value: view.practice, rev: there?.rev ?? null };
	const editing = useDraft<Kept>(view.job.id, `practice ${own}`, at, savePractice(there?.id ?? newId()));
	const { draft, type: setDraft } = editing;
	const body: Kept = { ...draft, name: draft.name || own };
	const kept = data?.practices.find((p) => p.body.name === body.name);
	const changed = JSON.stringify(body) !== JSON.stringify({ ...view.practice, name: view.practice.name || body.name });
	const tried = useQuery({ ...ask.tried(view.job.id, body), enabled: changed });
	const set = (point: string, choice: Choice | null) => {
		const rest = Object.entries(draft.choice ?? {}).filter(([k]) => k !== point);
		setDraft({ ...draft, choice: Object.fromEntries(choice ? [...rest, [point, choice]] : rest) as NonNullable<Kept["choice"]> });
	};
	if (!data) return null;

	const follow = (practice: string) =>
		saveJob.mutate({
			base: view.job.rev,
			body: { ...view.job.body, brief: { ...view.job.body.brief, practice } as Schemas["Brief"] },
		});
	return (
		<>
			<Clashes draft={editing} what="The practice" />
			<Row $between>
				<div>
					<h1>{body.name}</h1>
					<Soft>
						What practitioners disagree on, and what this practice follows. Rules of practice, not law: local code, the
						manufacturer and the licensed trade decide.
					</Soft>
				</div>
				<Row $gap={6}>
					{data.practices.length > 0 && (
						<Chooser
							label="Practice of this job"
							value={kept && !changed ? kept.body.name : null}
							placeholder={body.name}
							choices={data.practices.map((p) => ({ id: p.body.name, name: p.body.name }))}
							onChange={(n) => n && follow(n)}
						/>
					)}
					<Chooser
						label="Units it reads"
						value={draft.units}
						choices={(choices?.units ?? []).map((v) => ({ id: v.value, name: v.name }))}
						onChange={(v) => v && setDraft({ ...body, units: v as Schemas["Units"] })}
					/>
				</Row>
			</Row>
			<Bench>
				<div>
					<Points>
						{data.points.map((p) => {
							const choice = draft.choice?.[p.key];
							const own = choice?.own !== undefined && choice.own !== null;
							const chosen = own ? OWN : (choice?.school ?? p.school[0]?.id ?? "");
							return (
								<PointSheet key={p.key} aria-label={p.what}>
									<h2>{p.what}</h2>
									<Schools
										aria-label={p.what}
										value={chosen}
										onChange={(v) =>
											set(p.key, v === OWN ? { own: "", reason: "" } : v === p.school[0]?.id ? null : { school: v, reason: "" })
										}
									>
										{p.school.map((s) => (
											<School key={s.id} value={s.id}>
												<i aria-hidden />
												<span>
													<b>{s.name}</b>
													<br />
													<Soft>{s.reason}</Soft>
												</span>
											</School>
										))}
										{p.unit !== "none" && (
											<School value={OWN}>
												<i aria-hidden />
												<b>Own figure</b>
											</School>
										)}
									</Schools>
									{own && (
										<Row>
											<Field
												label="Figure with its unit"
												value={choice?.own ?? ""}
												onChange={(v) => set(p.key, { ...choice, own: v })}
											/>
											<div style={{ flex: 1 }}>
												<Field label="Why" value={choice?.reason ?? ""} onChange={(v) => set(p.key, { ...choice, reason: v })} />
											</div>
										</Row>
									)}
								</PointSheet>
							);
						})}
					</Points>
					{(draft.own_word?.length ?? 0) > 0 && (
						<section aria-label="Own words" style={{ marginTop: 16 }}>
							<h2>Own words</h2>
							<ul>
								{draft.own_word?.map((w) => (
									<li key={w.said}>
										“{w.said}” is read as <Figures>{w.means.replaceAll("-", " ")}</Figures>{" "}
										<QuietButton
											onPress={() => setDraft({ ...draft, own_word: (draft.own_word ?? []).filter((x) => x.said !== w.said) })}
										>
											Forget
										</QuietButton>
									</li>
								))}
							</ul>
						</section>
					)}
				</div>
				<Aside aria-label="What would change" aria-live="polite">
					<h2>What would change here</h2>
					{!changed && <Soft>Choose another school to see what it would say of this job, before it is kept.</Soft>}
					{changed && tried.error && <p role="alert">{tried.error.message}</p>}
					{changed && tried.data?.length === 0 && <p>Nothing in this job.</p>}
					{changed && tried.data && tried.data.length > 0 && (
						<ul>
							{tried.data.map((d) => (
								<li key={d.note_id}>
									<b>{d.title}</b>
									<br />
									<del>{d.before}</del>
									<br />
									<ins>{d.after}</ins>
								</li>
							))}
						</ul>
					)}
					<Field label="Name of the practice" value={body.name} onChange={(n) => setDraft({ ...draft, name: n })} />
					{wrong && <p role="alert">{wrong}</p>}
					<Stack $gap={6}>
						<MainButton
							isDisabled={!changed && kept !== undefined}
							onPress={() =>
								save.mutate(
									{ id: kept?.id ?? newId(), base: kept?.rev ?? null, body },
									{
										onSuccess: (p) => {
											setWrong("");
											editing.drop();
											say(`${p.body.name} is kept.`);
											if (view.job.body.brief?.practice !== p.body.name) follow(p.body.name);
										},
										onError: (e) => setWrong(e.message),
									},
								)
							}
						>
							{kept ? "Keep the practice" : "Keep as a practice of its own"}
						</MainButton>
						{changed && <PlainButton onPress={editing.drop}>Leave it as it was</PlainButton>}
						{kept && (
							<ButtonLink href={`/api/practices/${kept.id}/practice.toml`} download="practice.toml">
								Write as a file (TOML)
							</ButtonLink>
						)}
						<FileTrigger
							acceptedFileTypes={[".toml"]}
							onSelect={(f) =>
								f?.[0] &&
								readPractice(f[0])
									.then((p) => {
										setWrong("");
										setDraft(p);
									})
									.catch((e: Fault) => setWrong(e.message))
							}
						>
							<PlainButton>Read from a file</PlainButton>
						</FileTrigger>
					</Stack>
				</Aside>
			</Bench>
		</>
	);
}
