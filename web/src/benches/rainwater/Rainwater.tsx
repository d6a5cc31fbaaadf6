import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type JobView, saveRainwater } from "../../api/queries";
import { useWhere } from "../../app/where";
import { PlainButton, QuietButton } from "../../design/buttons";
import { type Chosen, Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Beside, Columns, Row, Soft, Stack } from "../../design/layout";
import { Slide } from "../../design/numbers";
import { tone } from "../../design/tokens";
import { Asked, Unanswered } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { useDraft } from "../../parts/draft/useDraft";
import { useTrial } from "../../parts/draft/useHalf";
import { Offered } from "../../parts/Offered";
import { Start } from "../../parts/Start";
import { RowButton, Table } from "../../parts/Table";
import { useShown } from "../../parts/units";
import { Flat } from "./Flat";
import { Gutter } from "./Gutter";
import type { RainPage } from "./kinds";
import { Costs, Trying } from "./Trying";

const Doubt = styled.p`border-left: 4px solid ${tone.ochre}; padding: 4px 10px; color: ${tone.ochre}; margin-top: 6px;`;

/** From the facet to where it is let go: every drop. */
export function Rainwater() {
	const view = useOutletContext<JobView>();
	const [at, setAt] = useState<number | null>(null);
	const [drop, setDrop] = useState<{ x: number; y: number } | null>(null);
	const look = { ...(at === null ? {} : { at }), ...(drop ?? {}) };
	return (
		<Asked question={useQuery(ask.rainwater(view.job.id, look))}>
			{(page) => <Bench view={view} page={page} at={at} setAt={setAt} setDrop={setDrop} />}
		</Asked>
	);
}

interface BenchProps {
	view: JobView;
	page: RainPage;
	/** Another rain than the design rain. */
	at: number | null;
	setAt: (at: number | null) => void;
	/** A point whose way down is drawn. */
	setDrop: (at: { x: number; y: number }) => void;
}

function Bench({ view, page, at, setAt, setDrop }: BenchProps) {
	const where = useWhere();
	const u = useShown();
	const [chosen, setChosen] = useState<Chosen | null>(null);
	const { account } = page;
	// A search is dear: it is asked when somebody wants it, and again only when what it stands on is another.
	const found = useQuery(ask.remedies(view.job.id, `${view.roof_rev} ${page.rev} ${view.practice_version}`));
	if (!page.plan)
		return (
			<>
				<h1>Rainwater</h1>
				<Start of="rain">There is no roof yet for the rain to fall on. Measure it on the Roof bench first.</Start>
			</>
		);
	const choose = (c: Chosen) => {
		const eave = account.eaves.find((e) => e.edge === c.id);
		const start = c.kind === "facet" ? account.starts[c.id] : undefined;
		if (start) setDrop({ x: start[0] ?? 0, y: start[1] ?? 0 });
		if (c.kind === "edge" && eave) {
			setChosen(c);
			where.setCell(`${eave.face}.edge`);
		}
	};
	const rains = page.rains;
	const most = Math.ceil(Math.max(200, account.design_mm_h, ...rains.map((r) => r.mm_h * 1.1)) / 10) * 10;
	const worst = account.gutters.flatMap((g) => (g.run?.spills_from_mm_h == null ? [] : [g.run.spills_from_mm_h]));
	const design = account.law ? account.law.i_mm_h["5"] : undefined;
	return (
		<>
			<h1>Rainwater</h1>
			<Soft>{account.design}</Soft>
			<p style={{ marginTop: 4 }}>{account.balance}</p>
			{account.doubts.map((d) => (
				<Doubt key={d}>{d}</Doubt>
			))}
			<Slide
				label="Look at"
				value={at ?? Math.round(account.design_mm_h)}
				most={most}
				water
				shown={u.rain(account.design_mm_h)}
				onChange={setAt}
			>
				{at !== null && (
					<QuietButton onPress={() => setAt(null)}>Back to the design rain{design ? ` (${u.rain(design)})` : ""}</QuietButton>
				)}
			</Slide>
			<Row $gap={4}>
				<QuietButton onPress={() => setAt(5)}>Drizzle, {u.rain(5)}</QuietButton>
				{rains.map((r) => (
					<QuietButton key={r.years} onPress={() => setAt(Math.round(r.mm_h))}>
						Once in {r.years} years, {u.rain(r.mm_h)}
					</QuietButton>
				))}
			</Row>
			{worst.length > 0 && <Soft>The first gutter spills from {u.rain(Math.min(...worst))} on.</Soft>}
			<Beside>
				<Drawing svg={page.plan} chosen={chosen} onChoose={choose} onPoint={(x, y) => setDrop({ x, y })} most="430px" />
				<Table aria-label="Eaves">
					<thead>
						<tr>
							<th>Eave</th>
							<th className="n">Drains</th>
							<th className="n">Water</th>
						</tr>
					</thead>
					<tbody>
						{account.eaves.map((e) => {
							const on = chosen?.kind === "edge" && chosen.id === e.edge;
							return (
								<tr key={e.key} data-chosen={on}>
									<td>
										<RowButton type="button" aria-pressed={on} onClick={() => choose({ kind: "edge", id: e.edge })}>
											{e.label.replace(/^./, (x) => x.toUpperCase())}
											<Soft>
												{e.gutter
													? `gutter ${e.gutter}`
													: e.drops_m == null
														? "pours free"
														: `falls ${u.length(e.drops_m, 1)} onto the roof below`}
												{e.burst_m2 > 0.05 && `, ${u.area(e.burst_m2)} of it at points`}
											</Soft>
										</RowButton>
									</td>
									<td className="n">{u.area(e.sheet_m2 + e.burst_m2)}</td>
									<td className="n">{u.flow(e.l_min)}</td>
								</tr>
							);
						})}
					</tbody>
				</Table>
			</Beside>
			<Soft>
				Figures on the plan are {u.units.startsWith("us") ? "gallons" : "litres"} per minute at each eave; broken lines pour
				without a gutter; discs are bursts at valley feet. Point at the roof, or choose a slope by its keys, to see a drop run
				down.
			</Soft>
			{account.checks.map((c) => (
				<p key={c}>{c}</p>
			))}
			<Offered view={view} offered={account.offered} name="Where no gutter hangs" />
			<Kept
				view={view}
				at={at}
				page={page}
				found={found.data?.account}
				searching={found.isFetching}
				unfound={found}
				onSearch={() => void found.refetch()}
			/>
		</>
	);
}

/** What a new gutter falls until it is measured, metres a metre. */
const FALL_TO_BEGIN_WITH = 0.005;

const stormOf = (r: Schemas["IntensityRow"]) => ({
	i5: `${r.i5_mm_h} mm/h`,
	i60: `${r.i60_mm_h} mm/h`,
	years: r.years,
	source: "weather office, simulated",
});

interface KeptProps {
	view: JobView;
	at: number | null;
	page: RainPage;
	found: Schemas["RainAccount"] | undefined;
	searching: boolean;
	/** The search, where it could not be made. */
	unfound: Parameters<typeof Unanswered>[0]["question"];
	onSearch: () => void;
}

function Kept({ view, at, page, found, searching, unfound, onSearch }: KeptProps) {
	const job = view.job.id;
	const editing = useDraft<Schemas["Rainwater"]>(
		job,
		"rainwater",
		{ value: page.rainwater, rev: page.rev ?? null },
		saveRainwater(job),
	);
	const [trying, setTrying] = useTrial(`${job} rainwater tried`, editing.draft);
	/** The flat roof that was just begun: its fields stand open. */
	const [begun, setBegun] = useState<string | null>(null);
	const tried = useQuery(ask.tryRainwater(job, trying, at));
	const fault = trying ? tried.error : null;
	const shown = trying && tried.data ? tried.data : page;
	// While a change is tried, the same fields write into it and nothing is kept.
	const { draft, type, keep, wrong } = trying
		? {
				draft: trying,
				type: setTrying,
				keep: (next?: Schemas["Rainwater"]) => next && setTrying(next),
				wrong: fault?.field ? { [fault.field]: fault.message } : {},
			}
		: editing;
	const u = useShown();
	const office = useQuery(ask.weather(job));
	const storm = draft.storm ?? {};
	const gutters = draft.gutters ?? [];
	const flats = draft.flats ?? [];
	const free = page.account.eaves.filter((e) => gutters.every((g) => g.eave !== e.key));
	const set = (part: Partial<Schemas["Storm"]>) => type({ ...draft, storm: { ...storm, ...part } });
	const add = () => {
		const eave = free[0];
		if (!eave) return;
		const n = 1 + Math.max(0, ...gutters.map((g) => Number((g.id ?? "").slice(1)) || 0));
		const last = gutters.at(-1);
		const fall = eave.length_m * FALL_TO_BEGIN_WITH;
		keep({
			...draft,
			gutters: [
				...gutters,
				{
					id: `G${n}`,
					name: "",
					eave: eave.key,
					round: [],
					form: last?.form ?? "half-round",
					width: last?.width ?? u.start("125 mm", "5 in"),
					depth: last?.depth ?? u.start("62 mm", "2 1/2 in"),
					levels: `0 0, ${u.start(`${eave.length_m.toFixed(1)} ${Math.round(fall * 1000)} mm`, `${u.typed(eave.length_m, 1)} ${u.typed(fall, 3)}`)}`,
					inside: last?.inside ?? "clean",
					past_fascia: last?.past_fascia ?? "",
					above_rim: last?.above_rim ?? "",
					outlets: [
						{
							from_left: u.typed(eave.length_m, 2),
							bore: last?.outlets?.[0]?.bore ?? u.start("75 mm", "3 in"),
							strainer: false,
							up: "",
							ends: "ground",
							distance: "",
							onto: "",
						},
					],
				},
			],
		});
	};
	return (
		<Stack $gap={16} style={{ marginTop: 18 }}>
			<Clashes draft={editing} what="Rain and gutters" />
			<h2>The rain to design for</h2>
			<Columns>
				<Field
					label="Over 5 minutes: mm/h or in/h"
					value={storm.i5 ?? ""}
					onChange={(i5) => set({ i5 })}
					onBlur={() => keep()}
					error={wrong["storm.i5"]}
				/>
				<Field
					label="Over 60 minutes"
					value={storm.i60 ?? ""}
					onChange={(i60) => set({ i60 })}
					onBlur={() => keep()}
					error={wrong["storm.i60"]}
				/>
				<Field
					label="Where the figures are from"
					value={storm.source ?? ""}
					onChange={(source) => set({ source })}
					onBlur={() => keep()}
				/>
			</Columns>
			<Row $gap={8}>
				<PlainButton onPress={() => void office.refetch()} isDisabled={office.isFetching}>
					{office.isFetching ? "Asking the office …" : "Ask the weather office (simulated)"}
				</PlainButton>
				<Unanswered question={office} />
				{office.data && !office.isFetching && (
					<Soft role="status">
						{office.data.words} {office.data.source}.
					</Soft>
				)}
				{!office.isFetching &&
					office.data?.rows.map((r) => (
						<QuietButton
							key={r.years}
							onPress={() =>
								keep({
									...draft,
									storm: stormOf(r),
									rains: office.data?.rows.filter((o) => o.years !== r.years).map(stormOf) ?? [],
								})
							}
						>
							Take once in {r.years} years: {u.rain(r.i5_mm_h)} and {u.rain(r.i60_mm_h)}
						</QuietButton>
					))}
			</Row>
			{page.flat_masses.length > 0 && (
				<>
					<h2>Flat roofs</h2>
					{flats.map((f, i) => (
						<Flat
							key={f.mass}
							view={view}
							flat={f}
							begun={begun === f.mass}
							name={page.flat_masses.find((m) => m.mass === f.mass)?.name ?? f.mass}
							account={shown.account.flats?.find((a) => a.mass === f.mass)}
							drawings={shown.flats[shown.account.flats?.findIndex((a) => a.mass === f.mass) ?? -1]}
							eaves={shown.account.eaves}
							remedies={found?.flats?.find((a) => a.mass === f.mass)?.remedies}
							wrong={wrong}
							set={(part, now) => {
								const next = { ...draft, flats: flats.map((o, k) => (k === i ? { ...o, ...part } : o)) };
								if (now) keep(next);
								else type(next);
							}}
							keep={() => keep()}
							remove={() => keep({ ...draft, flats: flats.filter((_, k) => k !== i) })}
						/>
					))}
					<Row $gap={8}>
						{page.flat_masses
							.filter((m) => flats.every((f) => f.mass !== m.mass))
							.map((m) => (
								<PlainButton
									key={m.mass}
									onPress={() => {
										setBegun(m.mass);
										keep({
											...draft,
											flats: [
												...flats,
												{
													mass: m.mass,
													parapets: {},
													fall: "",
													toward: null,
													heights: [],
													outlets: [],
												},
											],
										});
									}}
								>
									Measure the flat roof of the {m.name}
								</PlainButton>
							))}
					</Row>
				</>
			)}
			<Row $between>
				<h2>Gutters</h2>
				<Row $gap={8}>
					{!trying && <PlainButton onPress={() => setTrying(editing.draft)}>Try a change</PlainButton>}
					<PlainButton onPress={onSearch} isDisabled={searching}>
						{searching ? "Searching …" : "Search for the smallest change that ends the spilling"}
					</PlainButton>
				</Row>
			</Row>
			<Unanswered question={unfound} />
			{trying && (
				<Trying
					view={view}
					comparison={tried.data?.comparison ?? undefined}
					fault={fault?.message}
					onKeep={() => {
						editing.keep(trying);
						setTrying(null);
					}}
					onDiscard={() => setTrying(null)}
				/>
			)}
			{found && <Costs costs={page.costs} draft={draft} onKeep={(next) => keep(next)} />}
			{gutters.map((g, i) => (
				<Gutter
					key={g.id}
					view={view}
					page={shown}
					gutter={g}
					account={shown.account.gutters.find((a) => a.id === g.id)}
					section={shown.sections[shown.account.gutters.findIndex((a) => a.id === g.id)]}
					remedies={found?.gutters.find((a) => a.id === g.id)?.remedies}
					wrong={wrong}
					set={(part, now) => {
						const next = { ...draft, gutters: gutters.map((o, k) => (k === i ? { ...o, ...part } : o)) };
						if (now) keep(next);
						else type(next);
					}}
					keep={() => keep()}
					remove={() => keep({ ...draft, gutters: gutters.filter((_, k) => k !== i) })}
				/>
			))}
			<Row>
				<PlainButton onPress={add} isDisabled={free.length === 0}>
					{gutters.length ? "Hang one like the last under the next eave" : "Hang a gutter"}
				</PlainButton>
			</Row>
		</Stack>
	);
}
