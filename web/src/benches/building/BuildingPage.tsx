import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, saveBuilding, undoIn } from "../../api/queries";
import { Standing } from "../../app/Standing";
import { ButtonLink, PlainButton, QuietButton } from "../../design/buttons";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Columns, Figures, Folded, Hazard, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { NumberBox } from "../../design/numbers";
import { TabBar } from "../../design/TabBar";
import { at, hairline, line, size, tone } from "../../design/tokens";
import { Asked } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { type Draft, useDraft } from "../../parts/draft/useDraft";
import { nextId, rowsOf } from "../../parts/rows";
import { Things } from "./Things";

export type Building = Schemas["Building"];
type Account = Schemas["BuildingAccount"];

const Page = styled.main`max-width: 1180px; margin: 0 auto; padding: 18px 22px 60px; display: grid; gap: 16px; ${at.phone} { padding: 14px 12px 40px; }`;
const Line = styled.ol`li { display: grid; grid-template-columns: 108px 76px minmax(0, 1fr); gap: 4px 14px; padding: 9px 0; border-bottom: ${hairline}; ${at.phone} { grid-template-columns: 96px minmax(0, 1fr); > :nth-child(3) { grid-column: 1 / -1; } } }`;
const Table = styled.table`border-collapse: collapse; width: 100%; th, td { text-align: left; padding: 6px 10px 6px 0; border-bottom: ${hairline}; font-weight: 400; vertical-align: top; } thead th { color: ${tone.inkSoft}; font-size: ${size.small}; } td:nth-child(n + 2) { white-space: nowrap; }`;
const Place = styled.section`border-top: ${line}; padding: 8px 0;`;

const day = (on: string | null | undefined) => on ?? "day not known";

/** One building over the years: its visits, what was read at each, every place, what to look after and what to put by. */
export function BuildingPage() {
	const { building = "" } = useParams();
	return (
		<Page>
			<Asked question={useQuery(ask.building(building))}>{(page) => <Whole page={page} />}</Asked>
		</Page>
	);
}

function Whole({ page }: { page: Schemas["BuildingPage"] }) {
	const { id, rev, body } = page.building;
	const editing = useDraft<Building>(id, "building", { value: body, rev }, saveBuilding(id));
	const [part, choose] = useState("line");
	const a = page.account;
	return (
		<>
			<Row $between>
				<Row>
					<Link to="/">Jobs</Link>
					<h1>{body.name}</h1>
					<Soft>{body.address}</Soft>
				</Row>
				<Row>
					<Standing />
					<QuietButton onPress={() => void undoIn(id).catch((e: Error) => say(e.message, { wrong: true }))}>Undo</QuietButton>
				</Row>
			</Row>
			<Clashes draft={editing} what="The building" />
			{a.comes_back.length > 0 && (
				<ul aria-label="What keeps coming back">
					{a.comes_back.map((c) => (
						<li key={c}>
							<b>Keeps coming back:</b> {c}
						</li>
					))}
				</ul>
			)}
			<TabBar
				label="Parts of the building's page"
				chosen={part}
				onChoose={choose}
				tabs={[
					{ id: "line", name: "Time line" },
					{ id: "series", name: "Series" },
					{ id: "places", name: "Places" },
					{ id: "upkeep", name: "Upkeep" },
					{ id: "reserve", name: "Reserve" },
				]}
			>
				{part === "line" && <TimeLine account={a} editing={editing} />}
				{part === "series" && <Series account={a} />}
				{part === "places" && <Places account={a} />}
				{part === "upkeep" && <Upkeep account={a} id={id} />}
				{part === "reserve" && <Reserve page={page} editing={editing} />}
			</TabBar>
		</>
	);
}

function TimeLine({ account, editing }: { account: Account; editing: Draft<Building> }) {
	const list = rowsOf<Building, "events", Schemas["BuildingEvent"]>(editing, "events");
	const today = new Date().toISOString().slice(0, 10);
	return (
		<Stack>
			<Line aria-label="Time line">
				{account.time_line.map((e) => (
					<li key={`${e.what} ${e.on} ${e.text} ${e.job}`}>
						<Figures>{day(e.on)}</Figures>
						<Soft>{e.what}</Soft>
						<span>
							{e.job ? <Link to={`/jobs/${e.job}/report`}>{e.text}</Link> : e.text} <Soft>{e.more}</Soft>
						</span>
					</li>
				))}
			</Line>
			<Folded head="Repairs, papers and storms between the visits">
				<Stack $gap={8}>
					{list.rows.map((e) => (
						<Columns key={e.id}>
							<Field label={`${e.id}, day`} type="date" value={e.on} onChange={(on) => on && list.set(e.id, { on }, true)} />
							<Field label="What happened" {...list.text(e, "text")} />
							<PlainButton onPress={() => list.remove(e.id)}>Take {e.id} out</PlainButton>
						</Columns>
					))}
					<Row>
						{(["repair", "paper", "storm", "other"] as const).map((what) => (
							<PlainButton
								key={what}
								onPress={() =>
									list.add({
										id: nextId("E", list.rows),
										on: today,
										what,
										text: { repair: "Repaired: ", paper: "Paper: ", storm: "Storm: ", other: "Changed: " }[what],
									})
								}
							>
								{{ repair: "A repair", paper: "A paper", storm: "A storm", other: "Something else" }[what]}
							</PlainButton>
						))}
					</Row>
				</Stack>
			</Folded>
		</Stack>
	);
}

const KINDS: Record<string, string> = { crack: "Cracks", height: "Heights", moisture: "Moisture", life: "Coverings" };

function Series({ account }: { account: Account }) {
	const kinds = [...new Set(account.series.map((s) => s.kind))];
	if (kinds.length === 0) return <Soft>Nothing was read that can be read again.</Soft>;
	return (
		<Stack>
			{kinds.map((kind) => {
				const rows = account.series.filter((s) => s.kind === kind);
				const again = rows.filter((r) => r.values.length > 1);
				const once = rows.length - again.length;
				const shown = again.length > 0 ? again : rows;
				return (
					<section key={kind} aria-label={KINDS[kind] ?? kind}>
						<h2>{KINDS[kind] ?? kind}</h2>
						<Table>
							<tbody>
								{shown.map((r) => (
									<tr key={r.name}>
										<th scope="row">{r.name}</th>
										<td>
											<Track values={r.values.map((v) => v.value)} />
										</td>
										{r.values.map((v) => (
											<td key={`${v.on} ${v.words}`}>
												<Figures>{v.words}</Figures> <Soft>{day(v.on)}</Soft>
											</td>
										))}
									</tr>
								))}
							</tbody>
						</Table>
						{again.length > 0 && once > 0 && <Soft>{once === 1 ? "One more was" : `${once} more were`} read once only.</Soft>}
					</section>
				);
			})}
		</Stack>
	);
}

/** How a figure went from visit to visit. */
function Track({ values }: { values: number[] }) {
	if (values.length < 2) return null;
	const [low, high] = [Math.min(...values), Math.max(...values)];
	const y = (v: number) => (high > low ? 20 - (16 * (v - low)) / (high - low) : 12);
	const x = (k: number) => 4 + (52 * k) / (values.length - 1);
	return (
		<svg width="60" height="24" viewBox="0 0 60 24" aria-hidden="true">
			<polyline points={values.map((v, k) => `${x(k)},${y(v)}`).join(" ")} fill="none" stroke={tone.ink} strokeWidth="1.5" />
			{values.map((v, k) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: a reading is known by its visit, which is its place in the row
				<circle key={k} cx={x(k)} cy={y(v)} r="2.5" fill={tone.copper} />
			))}
		</svg>
	);
}

function Places({ account }: { account: Account }) {
	if (account.places.length === 0) return <Soft>No visit has noted anything yet.</Soft>;
	return (
		<div>
			{account.places.map((p) => (
				<Place key={p.place} aria-label={p.place}>
					<h3>{p.place}</h3>
					<ul>
						{p.seen.map((s) => (
							<li key={`${s.job} ${s.title} ${s.state}`}>
								<Figures>{day(s.on)}</Figures> {s.title} <Soft>{s.state}</Soft>
							</li>
						))}
					</ul>
				</Place>
			))}
		</div>
	);
}

function Upkeep({ account, id }: { account: Account; id: string }) {
	const seasons = [...new Set(account.upkeep.map((t) => t.season))];
	return (
		<Stack>
			<Row $between>
				<Soft>From what the building has and what was found on it. Dates of the northern half of the earth.</Soft>
				<ButtonLink href={`/api/buildings/${id}/upkeep.ics`} download>
					As a calendar
				</ButtonLink>
			</Row>
			{seasons.map((season) => (
				<section key={season} aria-label={season}>
					<h2>{season}</h2>
					<ul>
						{account.upkeep
							.filter((t) => t.season === season)
							.map((t) => (
								<li key={t.id}>
									<b>{t.words}.</b> <Soft>{t.why}</Soft>
									{t.because.length > 0 && <p>Found: {t.because.join("; ")}.</p>}
									{t.caution && (
										<p>
											<Hazard>{t.caution}</Hazard>
										</p>
									)}
								</li>
							))}
					</ul>
				</section>
			))}
		</Stack>
	);
}

function Reserve({ page, editing }: { page: Schemas["BuildingPage"]; editing: Draft<Building> }) {
	const plan = page.account.reserve;
	const id = page.building.id;
	return (
		<Stack>
			{page.account.problem && <p role="alert">{page.account.problem}</p>}
			{plan && (
				<>
					<Row $between>
						<p>{plan.sentence}</p>
						<ButtonLink href={`/api/buildings/${id}/reserve.csv`} download>
							As a table (CSV)
						</ButtonLink>
					</Row>
					{page.curve && <Drawing svg={page.curve} most="320px" />}
					<Soft>
						Band: what will have been spent by each year's end, one in ten less to one in ten more. Line: the middle. Dashes: paid
						in evenly, it covers nine of ten cases at every year's end.
					</Soft>
				</>
			)}
			<NumberBox
				label="Years it looks ahead"
				value={editing.draft.reserve_years ?? 20}
				least={1}
				onChange={(n) => n && editing.keep({ ...editing.draft, reserve_years: Math.min(60, n) })}
			/>
			<Things page={page} editing={editing} />
			{plan && (
				<Folded head="Year by year">
					<Table>
						<thead>
							<tr>
								{["Year", "To be expected", "Chance", "Spent by its end (10–90 %)", "What"].map((h) => (
									<th key={h} scope="col">
										{h}
									</th>
								))}
							</tr>
						</thead>
						<tbody>
							{plan.years.map((y) => (
								<tr key={y.year}>
									<td>{y.year}</td>
									<td>
										<Figures>{y.expected.toFixed(0)}</Figures>
									</td>
									<td>
										<Figures>{(y.chance * 100).toFixed(0)} %</Figures>
									</td>
									<td>
										<Figures>
											{(y.spent[0] ?? 0).toFixed(0)}–{(y.spent[2] ?? 0).toFixed(0)}
										</Figures>
									</td>
									<td style={{ whiteSpace: "normal" }}>
										{y.what
											.slice(0, 3)
											.map((w) => `${w.name} (${(w.chance * 100).toFixed(0)} %)`)
											.join(", ")}
									</td>
								</tr>
							))}
						</tbody>
					</Table>
				</Folded>
			)}
		</Stack>
	);
}
