import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type JobView } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import { corner, hairline, line, size, tone } from "../../design/tokens";
import { Unanswered } from "../../parts/Asked";
import { Table } from "../../parts/Table";
import type { ChoosingProps } from "./Slopes";
import type { Editing, Page } from "./useRoof";

type Paper = Schemas["Paper"];
type Setting = Schemas["Setting"];

const Estimate = styled.span`color: ${tone.ochre};`;
const Box = styled.section`border-top: ${hairline}; padding-top: 12px;`;
const Grades = styled.div`
	display: grid;
	grid-template-columns: repeat(5, minmax(0, 1fr));
	gap: 8px;
	button { all: unset; cursor: pointer; border: ${hairline}; border-radius: ${corner}; padding: 4px; display: grid; gap: 2px; font-size: ${size.small}; align-content: start; }
	button[aria-pressed="true"] { border: ${line}; box-shadow: inset 0 0 0 2px ${tone.copper}; }
	button:focus-visible { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
	@media (max-width: 640px) { grid-template-columns: repeat(2, minmax(0, 1fr)); }
`;
const Ladder = styled.div`overflow-x: auto; > div { min-width: 560px; }`;

const CLIMATES = [
	{ id: "temperate", name: "Temperate" },
	{ id: "freeze-thaw", name: "Frost and thaw" },
	{ id: "hot-humid", name: "Hot and humid" },
	{ id: "hot-dry", name: "Hot and dry" },
	{ id: "marine", name: "By the sea" },
];
const TICKS: [keyof Setting & string, string][] = [
	["southern", "South of the equator"],
	["poor_ventilation", "Poorly ventilated attic"],
	["second_layer", "Second layer"],
	["poor_workmanship", "Poor workmanship"],
	["past_hail", "Past hail"],
];
/** What a paper counts for while nobody says how often such papers are right. */
const USUALLY_RIGHT = 0.95;
const years = (s: readonly number[] | null | undefined) =>
	s ? `${(s[1] ?? 0).toFixed(0)} (${(s[0] ?? 0).toFixed(0)} to ${(s[2] ?? 0).toFixed(0)})` : "?";
const money = (n: number) => Math.round(n).toLocaleString("en").replaceAll(",", " ");

/** How old, how long yet: the sentence, the drawing, the figures; and what they rest on. */
export function Life({ view, page, editing, chosen, onChoose }: ChoosingProps & { view: JobView; page: Page; editing: Editing }) {
	const { account } = page;
	const facet = chosen?.kind === "facet" ? chosen.id : null;
	const worst = account.slopes.find((s) => s.label === account.coverings[0]?.worst);
	const slope = account.slopes.find((s) => s.facet === facet) ?? worst ?? account.slopes[0];
	const drawing = slope && page.lives[account.slopes.indexOf(slope)];
	const bundles = view.bundles.filter((b) => b.with.toLowerCase().includes("re-roof"));
	return (
		<Stack $gap={18}>
			{account.coverings.map((c) => (
				<div key={c.covering}>
					<h2>{c.name.replace(/^./, (x) => x.toUpperCase())}</h2>
					<Soft>
						Judged by its worst slope of more than a tenth, the {c.worst}: plan to renew it in <b>{c.plan_year}</b>, be ready from{" "}
						{c.ready_from}.{" "}
						<Estimate>
							{c.squares.toFixed(1)} squares at {money(c.cost_per_square)} are {money(c.cost)}: put {money(c.reserve_per_year)}{" "}
							aside each year (estimate).
						</Estimate>
					</Soft>
					{c.overdue && (
						<p role="status">
							<b>{c.overdue}.</b> Worn out and still on: look for wet decking, and plan to renew it now (estimate).
						</p>
					)}
					{c.conflicts.map((x) => (
						<p key={x} role="alert" style={{ color: tone.ochre }}>
							{x}
						</p>
					))}
				</div>
			))}
			{slope && (
				<Box aria-label={`Age and life, ${slope.label}`}>
					<Row $between>
						<h2>{slope.label.replace(/^./, (x) => x.toUpperCase())}</h2>
						<Chooser
							hideLabel
							label="Slope"
							choices={account.slopes.map((s, i) => ({ id: s.facet, name: `S${i + 1} ${s.label}` }))}
							value={slope.facet}
							onChange={(id) => id && onChoose({ kind: "facet", id })}
						/>
					</Row>
					{slope.spent && <p role="alert">{slope.spent}</p>}
					{slope.problem && <p role="alert">{slope.problem}</p>}
					{drawing && (
						<Ladder>
							<Drawing svg={drawing} />
						</Ladder>
					)}
					{slope.life && (
						<Table aria-label="Figures of this slope" style={{ maxWidth: 620 }}>
							<tbody>
								<tr>
									<td>Age, years: middle (one in ten below, one in ten above)</td>
									<td className="n">{years(slope.life.age)}</td>
								</tr>
								<tr>
									<td>Service life</td>
									<td className="n">{years(slope.life.life)}</td>
								</tr>
								<tr>
									<td>Left, all weighed together</td>
									<td className="n">{years(slope.life.schools.combined)}</td>
								</tr>
								<tr>
									<td>Left, typical life less age</td>
									<td className="n">{years(slope.life.schools.typical)}</td>
								</tr>
								<tr>
									<td>Left, condition only</td>
									<td className="n">{years(slope.life.schools.condition)}</td>
								</tr>
								<tr>
									<td>Chance to last 1, 3, 5, 10 years</td>
									<td className="n">{slope.life.chances.last.join(" · ")}</td>
								</tr>
								<tr>
									<td>Chance that it is overdue: worn out already, and still on</td>
									<td className="n">{slope.life.chances.overdue}</td>
								</tr>
								{slope.life.chances.original != null && (
									<tr>
										<td>Chance that it is the building's first covering</td>
										<td className="n">{slope.life.chances.original}</td>
									</tr>
								)}
								<tr>
									<td>
										Typical life here{" "}
										<Soft>{slope.modifiers.map((m) => `${m.what} × ${m.factor.toFixed(2)}`).join(", ") || "no modifiers"}</Soft>
									</td>
									<td className="n">{slope.median_life_years?.toFixed(1)}</td>
								</tr>
								{slope.layer && (
									<tr>
										<td>
											{slope.layer.name.replace(/^./, (x) => x.toUpperCase())}, left <Soft>{slope.layer.why}</Soft>
										</td>
										<td className="n">{years(slope.layer.life.remaining)}</td>
									</tr>
								)}
							</tbody>
						</Table>
					)}
					<Soft>{account.coverings.find((c) => c.covering === slope.covering)?.schools}</Soft>
				</Box>
			)}
			{slope?.covering && <Wear slope={slope} editing={editing} />}
			<Papers view={view} page={page} editing={editing} />
			<SettingForm page={page} editing={editing} slope={slope} />
			<Box aria-label="With the next re-roof">
				<h2>To be done with the next re-roof</h2>
				{bundles.length === 0 && <Soft>No finding waits for it.</Soft>}
				<ul>
					{bundles
						.flatMap((b) => b.notes)
						.map((n) => {
							const f = view.findings.find((x) => x.note_id === n);
							return (
								<li key={n}>
									{f?.title} <Soft>{f?.place}</Soft>
								</li>
							);
						})}
				</ul>
			</Box>
		</Stack>
	);
}

/** Wear of one slope: each sign against drawings of its grades. */
function Wear({ slope, editing }: { slope: Schemas["Slope"]; editing: Editing }) {
	const { draft, keep } = editing;
	const known = useQuery(ask.roofChoices()).data?.signs;
	const [open, setOpen] = useState<string | null>(null);
	const give = (sign: string, grade: number | null) => {
		const { [sign]: _, ...rest } = draft.wear?.[slope.facet] ?? {};
		keep({ ...draft, wear: { ...draft.wear, [slope.facet]: grade === null ? rest : { ...rest, [sign]: grade } } });
	};
	return (
		<Box aria-label="Wear">
			<h2>Wear of this slope</h2>
			<Soft>Choose the drawing that looks most like it. What was not looked at stays open and counts for nothing.</Soft>
			{slope.signs.map((g) => {
				const sign = known?.find((s) => s.key === g.sign);
				return (
					<div key={g.sign} style={{ borderBottom: `1px solid ${tone.plasterLine}` }}>
						<Row $between>
							<QuietButton aria-expanded={open === g.sign} onPress={() => setOpen(open === g.sign ? null : g.sign)}>
								{sign?.name.replace(/^./, (x) => x.toUpperCase())}
							</QuietButton>
							<span>
								{g.grade == null ? <Soft>not graded</Soft> : `${g.grade}: ${sign?.looks[g.grade]}`}
								{g.grade != null && <QuietButton onPress={() => give(g.sign, null)}>Take back</QuietButton>}
							</span>
						</Row>
						{open === g.sign && (
							<Grades role="group" aria-label={sign?.name}>
								{[0, 1, 2, 3, 4].map((n) => (
									<Grade
										key={n}
										covering={slope.covering ?? ""}
										sign={g.sign}
										grade={n}
										looks={sign?.looks[n] ?? ""}
										on={g.grade === n}
										onChoose={() => give(g.sign, n)}
									/>
								))}
							</Grades>
						)}
					</div>
				);
			})}
		</Box>
	);
}

interface GradeProps {
	covering: string;
	sign: string;
	grade: number;
	looks: string;
	on: boolean;
	onChoose: () => void;
}

function Grade({ covering, sign, grade, looks, on, onChoose }: GradeProps) {
	const svg = useQuery(ask.wear(covering, sign, grade)).data;
	return (
		<button type="button" aria-pressed={on} onClick={onChoose}>
			{svg && <Drawing svg={svg} />}
			<span>
				<b>{grade}</b> {looks}
			</span>
		</button>
	);
}

const KINDS: { id: Paper["kind"]; name: string }[] = [
	{ id: "permit", name: "Permit" },
	{ id: "invoice", name: "Invoice" },
	{ id: "stated", name: "Somebody says so" },
	{ id: "range", name: "Said to be from … to" },
	{ id: "picture", name: "Dated picture" },
];

/** A new piece of evidence of a kind, with what it had in common with the one before. */
function fresh(kind: Paper["kind"], day: string, old?: Paper): Paper {
	const same = {
		source: old?.source ?? "",
		masses: old?.masses ?? [],
		set_aside: false,
		...(old?.right == null ? {} : { right: old.right }),
	};
	if (kind === "stated") return { kind, years: 10, first_hand: false, ...same };
	if (kind === "range") return { kind, low_years: 8, high_years: 12, ...same };
	if (kind === "picture") return { kind, on: day, there: true, ...same };
	return { kind, on: day, ...same };
}

function Papers({ view, page, editing }: { view: JobView; page: Page; editing: Editing }) {
	const { draft, type, keep, wrong } = editing;
	const office = useQuery(ask.records(view.job.id));
	const papers = draft.papers ?? [];
	const day = view.job.body.brief?.visited_on ?? new Date().toISOString().slice(0, 10);
	const set = (i: number, p: Paper, now = false) => {
		const next = { ...draft, papers: papers.map((o, k) => (k === i ? p : o)) };
		if (now) keep(next);
		else type(next);
	};
	const add = (...more: Paper[]) => keep({ ...draft, papers: [...papers, ...more] });
	return (
		<Box aria-label="Papers and statements">
			<h2>Papers and statements</h2>
			<Stack>
				{papers.map((p, i) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: evidence has no name; its place in the list is what it is
					<Columns key={i}>
						<Chooser
							label={`Evidence ${i + 1}`}
							choices={KINDS}
							value={p.kind}
							onChange={(k) => k && k !== p.kind && set(i, fresh(k as Paper["kind"], day, p), true)}
						/>
						{"on" in p && (
							<Field
								label="Its day"
								type="date"
								value={p.on}
								onChange={(on) => on && set(i, { ...p, on }, true)}
								error={wrong[`papers.${i}.on`]}
							/>
						)}
						{p.kind === "stated" && (
							<>
								<NumberBox
									label="Years they give"
									value={p.years}
									least={0}
									onChange={(v) => set(i, { ...p, years: v ?? 0 }, true)}
									error={wrong[`papers.${i}.years`]}
								/>
								<Tick value={p.first_hand ?? false} onChange={(v) => set(i, { ...p, first_hand: v }, true)}>
									They were there
								</Tick>
							</>
						)}
						{p.kind === "range" && (
							<>
								<NumberBox
									label="From, years"
									value={p.low_years}
									least={0}
									onChange={(v) => set(i, { ...p, low_years: v ?? 0 }, true)}
								/>
								<NumberBox
									label="To, years"
									value={p.high_years}
									least={0}
									onChange={(v) => set(i, { ...p, high_years: v ?? 0 }, true)}
									error={wrong[`papers.${i}.years`]}
								/>
							</>
						)}
						{p.kind === "picture" && (
							<Tick value={p.there} onChange={(v) => set(i, { ...p, there: v }, true)}>
								The covering is on it
							</Tick>
						)}
						{(p.kind === "permit" || p.kind === "invoice") && (
							<NumberBox
								label="Right, in a hundred such papers"
								value={Math.round((p.right ?? USUALLY_RIGHT) * 1000) / 10}
								least={0}
								most={100}
								onChange={(v) => set(i, { ...p, right: (v ?? 100 * USUALLY_RIGHT) / 100 }, true)}
								error={wrong[`papers.${i}.right`]}
							/>
						)}
						<Field
							label={p.kind === "stated" || p.kind === "range" ? "Who says so" : "Where it is from"}
							value={p.source ?? ""}
							onChange={(source) => set(i, { ...p, source })}
							onBlur={() => keep()}
						/>
						<Tick value={p.set_aside ?? false} onChange={(v) => set(i, { ...p, set_aside: v }, true)}>
							Set aside: kept, not weighed
						</Tick>
						<QuietButton onPress={() => keep({ ...draft, papers: papers.filter((_, k) => k !== i) })}>Take away</QuietButton>
					</Columns>
				))}
				{wrong.papers && <p role="alert">{wrong.papers}</p>}
				<Row $gap={8}>
					<PlainButton onPress={() => add(fresh("stated", day))}>Add evidence</PlainButton>
					<PlainButton onPress={() => void office.refetch()} isDisabled={office.isFetching}>
						{office.isFetching ? "Asking the office …" : "Ask the records office (simulated)"}
					</PlainButton>
				</Row>
				<Unanswered question={office} />
				{office.data && !office.isFetching && (
					<div role="status">
						<p>
							{office.data.words} <Soft>{office.data.source}.</Soft>
						</p>
						{office.data.permits.map((p) => (
							<Row key={p.on + p.words} $between>
								<span>
									{p.on}, {p.kind}: {p.words}
								</span>
								{papers.some((o) => "on" in o && o.on === p.on) ? (
									<Soft>already among the papers</Soft>
								) : (
									<QuietButton onPress={() => add({ ...fresh("permit", p.on), source: "records office, simulated" })}>
										Add to the papers
									</QuietButton>
								)}
							</Row>
						))}
					</div>
				)}
				<Soft>{page.account.papers.join(" · ")}</Soft>
			</Stack>
		</Box>
	);
}

function SettingForm({ page, editing, slope }: { page: Page; editing: Editing; slope: Schemas["Slope"] | undefined }) {
	const { draft, type, keep } = editing;
	const setting: Setting = draft.setting ?? {};
	const set = (part: Partial<Setting>) => keep({ ...draft, setting: { ...setting, ...part } });
	const trees = setting.under_trees ?? [];
	return (
		<Box aria-label="What shortens life, and cost">
			<h2>What shortens life, and what renewing costs</h2>
			<Columns>
				<Chooser
					label="Climate"
					choices={CLIMATES}
					value={setting.climate ?? "temperate"}
					onChange={(k) => k && set({ climate: k as NonNullable<Setting["climate"]> })}
				/>
				{TICKS.map(([key, name]) => (
					<Tick key={key} value={Boolean(setting[key])} onChange={(v) => set({ [key]: v })}>
						{name}
					</Tick>
				))}
				<NumberBox
					label="A worn-out roof stays on, years on average"
					value={setting.wait_years ?? 3}
					least={0.1}
					most={30}
					onChange={(v) => set({ wait_years: v ?? 3 })}
				/>
				{slope && (
					<Tick
						value={trees.includes(slope.facet)}
						onChange={(v) => set({ under_trees: v ? [...trees, slope.facet] : trees.filter((t) => t !== slope.facet) })}
					>
						Trees overhang the {slope.label}
					</Tick>
				)}
				{page.account.coverings.map((c) => (
					<NumberBox
						key={c.covering}
						label={`Cost of a square of ${c.name}`}
						value={setting.cost_per_square?.[c.covering] ?? c.cost_per_square}
						least={0}
						onChange={(v) => {
							// Emptied, it is the practice's figure again.
							const { [c.covering]: _, ...others } = setting.cost_per_square ?? {};
							set({ cost_per_square: v === null ? others : { ...others, [c.covering]: v } });
						}}
					/>
				))}
				{(draft.masses ?? []).map((m) => (
					<Field
						key={m.id}
						label={`${m.name}: its product is known to fail early, because`}
						value={setting.fails_early?.[m.id] ?? ""}
						onChange={(v) => {
							const { [m.id]: _, ...rest } = setting.fails_early ?? {};
							type({ ...draft, setting: { ...setting, fails_early: v ? { ...rest, [m.id]: v } : rest } });
						}}
						onBlur={() => keep()}
					/>
				))}
			</Columns>
			<Soft>
				Grades, typical lives, modifiers and costs are rules of practice and estimates; the practice's schools stand on the
				Practice page.
			</Soft>
		</Box>
	);
}
