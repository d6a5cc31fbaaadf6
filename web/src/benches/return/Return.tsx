import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type JobView, pictureUrl, saveReturn, useAttach } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { RadioChoice } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Figures, Folded, Hazard, Row, Soft, Stack } from "../../design/layout";
import { line, tone } from "../../design/tokens";
import { Asked } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { useDraft } from "../../parts/draft/useDraft";
import { rowsOf } from "../../parts/rows";
import { ThenAndNow } from "./ThenAndNow";

type Kept = Schemas["ReturnKept"];
type Line = Schemas["ReturnLine"];

export const BECAME: { id: Schemas["Became"]; name: string; key: string }[] = [
	{ id: "done-right", name: "Done right", key: "1" },
	{ id: "done-wrong", name: "Done wrong", key: "2" },
	{ id: "not-done", name: "Not done", key: "3" },
	{ id: "covered", name: "Covered before seen", key: "4" },
	{ id: "no-longer", name: "No longer applies", key: "5" },
];
const List = styled.ol`display: grid; gap: 0;`;
const Entry = styled.li`border-top: ${line}; padding: 12px 0; display: grid; gap: 8px;`;
const Table = styled.table`border-collapse: collapse; width: 100%; th, td { text-align: left; padding: 6px 8px 6px 0; border-bottom: 1px solid ${tone.plasterLine}; font-weight: 400; } th { color: ${tone.inkSoft}; }`;

/** A return visit: what became of every recommendation, what was read then beside what is read now, and what is left. */
export function Return() {
	const view = useOutletContext<JobView>();
	const question = useQuery(ask.returned(view.job.id));
	return (
		<>
			<h1>Return</h1>
			<Asked question={question}>{(page) => <Bench view={view} page={page} />}</Asked>
		</>
	);
}

function Bench({ view, page }: { view: JobView; page: Schemas["ReturnPage"] }) {
	const job = view.job.id;
	const editing = useDraft<Kept>(job, "return", { value: page.kept, rev: page.rev }, saveReturn(job));
	const list = rowsOf<Kept, "lines", Line>(editing, "lines");
	const { account } = page;
	const rows = account.order.map((id) => list.rows.find((l) => l.id === id)).filter((l) => l !== undefined);
	const [open, setOpen] = useState<string | null>(null);
	const said = editing.draft.said_mended ?? null;
	return (
		<Stack>
			<p>
				{account.sentence}{" "}
				<Soft>
					Of {page.kept.of_name}
					{page.kept.then_on && `, ${page.kept.then_on}`}.
				</Soft>
			</p>
			<Clashes draft={editing} what="The return visit" />
			<section aria-label="Before it starts">
				{account.before && <p>{account.before}</p>}
				<RadioChoice
					label="Was everything said to be mended?"
					choices={[
						{ id: "yes", name: "Yes" },
						{ id: "no", name: "No" },
					]}
					value={said === null ? "" : said ? "yes" : "no"}
					onChange={(v) => editing.keep({ ...editing.draft, said_mended: v === "yes" })}
				/>
				{said === false && (
					<Field
						label="Why it is visited all the same"
						value={editing.draft.why_now ?? ""}
						onChange={(why_now) => editing.type({ ...editing.draft, why_now })}
						onBlur={() => editing.keep()}
						error={editing.wrong.why_now}
					/>
				)}
			</section>
			<List aria-label="Recommendations of the earlier visit">
				{rows.map((l) => (
					<One
						key={l.id}
						view={view}
						line={l}
						list={list}
						open={open === l.id}
						onOpen={() => setOpen(open === l.id ? null : l.id)}
					/>
				))}
			</List>
			{account.readings.length > 0 && (
				<section aria-label="Readings of then and now">
					<h2>Readings of then and now</h2>
					<Table>
						<thead>
							<tr>
								<th scope="col">What</th>
								<th scope="col">Then</th>
								<th scope="col">Now</th>
								<th scope="col">Change</th>
							</tr>
						</thead>
						<tbody>
							{account.readings
								.filter((r) => r.now || r.kind !== "height")
								.map((r) => (
									<tr key={`${r.kind} ${r.name}`}>
										<td>{r.name}</td>
										<td>
											<Figures>{r.then}</Figures>
										</td>
										<td>
											<Figures>{r.now ?? "–"}</Figures>
										</td>
										<td>{r.change}</td>
									</tr>
								))}
						</tbody>
					</Table>
				</section>
			)}
			<Folded head="The letter: what is left">
				<Stack $gap={6}>
					{account.letter.map((p) => (
						<p key={p}>{p}</p>
					))}
				</Stack>
			</Folded>
		</Stack>
	);
}

interface EntryProps {
	view: JobView;
	line: Line;
	list: ReturnType<typeof rowsOf<Kept, "lines", Line>>;
	open: boolean;
	onOpen: () => void;
}

/** One recommendation: one key or press for the answer; what was seen and the pictures of then and now when it is opened. */
function One({ view, line: l, list, open, onOpen }: EntryProps) {
	const answer = (became: Schemas["Became"]) => {
		list.set(l.id, { became }, true);
		// A press on the answer opens the line; it never closes it.
		if (!open) onOpen();
	};
	return (
		<Entry
			aria-label={`${l.number}. ${l.title}`}
			onKeyDown={(e) => {
				// One key for each answer, where nothing is being typed.
				if (e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement) return;
				if (e.altKey || e.ctrlKey || e.metaKey) return;
				const became = BECAME.find((b) => b.key === e.key)?.id;
				if (became) answer(became);
			}}
		>
			<div>
				<Figures>{l.number}. </Figures>
				<b>{l.title}</b>
				{l.place && `, ${l.place}`} <Soft>{l.when}</Soft>{" "}
				{l.do_not_cover && <Hazard>Not to be covered before it is seen.</Hazard>}
				{l.said && !open && (
					<p>
						<Soft>
							{l.said} {l.by && `(${l.by})`}
						</Soft>
					</p>
				)}
			</div>
			<Row $gap={6} role="group" aria-label={`What became of ${l.number}, keys 1 to 5`}>
				{BECAME.map(({ id, name }) => (
					<PlainButton key={id} aria-pressed={l.became === id} onPress={() => answer(id)}>
						{name}
					</PlainButton>
				))}
				<QuietButton aria-expanded={open} onPress={onOpen}>
					{open ? "Less" : "More"}
				</QuietButton>
			</Row>
			{list.wrong(l.id, "said") && !open && <p role="alert">{list.wrong(l.id, "said")}</p>}
			{open && <Opened view={view} line={l} list={list} />}
		</Entry>
	);
}

function Opened({ view, line: l, list }: Pick<EntryProps, "view" | "line" | "list">) {
	const attach = useAttach(view.job.id);
	const [camera, setCamera] = useState(false);
	const then = l.then?.[0];
	const old = then ? `/api/jobs/${view.job.id}/return/pictures/${then.hash}` : null;
	const now = l.now ? pictureUrl(view.job.id, l.now, "display") : null;
	const take = async (file: File | undefined) => {
		if (!file) return;
		const got = await attach.mutateAsync({ file }).catch(() => undefined);
		if (got) list.set(l.id, { now: got.picture.id }, true);
	};
	return (
		<>
			{l.step && (
				<p>
					<Soft>
						Recommended: {l.step} {l.trade && `(${l.trade})`}
					</Soft>
				</p>
			)}
			<Columns>
				<Field label="What was seen" {...list.text(l, "said")} />
				<Field label="Who did it" {...list.text(l, "by")} />
			</Columns>
			{old ? (
				<ThenAndNow old={old} now={now} camera={camera} onCamera={setCamera} onTaken={take} />
			) : (
				<Soft>The earlier visit has no picture of it.</Soft>
			)}
			<Row>
				<label>
					<Soft>{now ? "Another picture of now: " : "A picture of now: "}</Soft>
					<input
						type="file"
						accept="image/*"
						aria-label={`Picture of now, ${l.title}`}
						onChange={(e) => void take(e.target.files?.[0] ?? undefined)}
					/>
				</label>
				{now && <PlainButton onPress={() => list.set(l.id, { now: null }, true)}>Without the picture</PlainButton>}
			</Row>
		</>
	);
}
