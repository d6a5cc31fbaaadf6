import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import type { Schemas } from "../../api/client";
import { ask, askRain, type JobView, readRain, saveTrace } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Drawing } from "../../design/Drawing";
import { Folded, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { TabBar } from "../../design/TabBar";
import { Asked } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { type Draft, useDraft } from "../../parts/draft/useDraft";
import { nextId } from "../../parts/rows";
import { Start } from "../../parts/Start";
import { useShown } from "../../parts/units";
import { List } from "./List";
import { Ranking } from "./Ranking";
import { Sightings } from "./Sightings";
import { SpotFields } from "./SpotFields";
import { Tests } from "./Tests";

export type TracePage = Schemas["TracePage"];
type Kept = Schemas["Trace"];

/** What every part of the bench is given. */
export interface PartProps {
	view: JobView;
	page: TracePage;
	editing: Draft<Kept>;
	spot: Schemas["SpotKept"];
	traced: Schemas["TracedSpot"] | undefined;
	rooms: Schemas["Room"][];
	/** What a candidate is called. */
	called: (id: string) => string;
}

/** From the wet spot back to where it came in. */
export function Trace() {
	const view = useOutletContext<JobView>();
	return <Asked question={useQuery(ask.trace(view.job.id))}>{(kept) => <Bench view={view} kept={kept} />}</Asked>;
}

function Bench({ view, kept }: { view: JobView; kept: TracePage }) {
	const u = useShown();
	const job = view.job.id;
	const editing = useDraft<Kept>(job, "trace", { value: kept.trace, rev: kept.rev ?? null }, saveTrace(job));
	const trace = editing.draft;
	// Every answer ranks again at once: what is typed is weighed by the server before it is kept.
	const changed = JSON.stringify(trace) !== JSON.stringify(kept.trace);
	const tried = useQuery(ask.tryTrace(job, changed ? trace : null));
	const page = changed && tried.data ? tried.data : kept;
	const spots = trace.spots ?? [];
	const [chosen, choose] = useState<string | null>(null);
	const spot = spots.find((s) => s.id === chosen) ?? spots[0];
	const rooms = view.moisture?.rooms ?? [];
	const [asking, setAsking] = useState(false);
	const record = async () => {
		setAsking(true);
		try {
			const r = await askRain(job);
			say(r.words, { wrong: r.hours.length === 0 });
			if (r.hours.length > 0)
				editing.keep((now) => ({
					...now,
					rain: { source: r.source, from: r.from, until: r.until, hours: r.hours, holes: r.holes },
				}));
		} catch (e) {
			say((e as Error).message, { wrong: true });
		}
		setAsking(false);
	};
	const fromFile = async (file: File | undefined) => {
		if (!file) return;
		try {
			const r = await readRain(file);
			editing.keep((now) => ({ ...now, rain: r }));
			say(`${r.hours?.length ?? 0} hours of rain or wind read from ${file.name}.`);
		} catch (e) {
			say((e as Error).message, { wrong: true });
		}
	};
	const add = (s: Partial<Schemas["SpotKept"]>) => {
		const id = nextId("S", spots);
		const at = {
			room: rooms[0]?.id ?? "",
			part: "wall",
			wall: rooms[0] ? 1 : 0,
			mass: "",
			face: rooms[0] ? null : "front",
			along: u.start("1 m", "3 ft"),
			up: u.start("0.1 m", "4 in"),
		};
		const made = { id, name: "wet spot", at: at as Schemas["OnSurface"], shows: "skirting" as const, since: "", ...s };
		const seen = s.since ? [{ id: nextId("W", trace.seen ?? []), spot: id, at: `${s.since}T12:00`, state: "wet" as const }] : [];
		editing.keep({ ...trace, spots: [...spots, { ...made, since: "" }], seen: [...(trace.seen ?? []), ...seen] });
		choose(id);
	};
	const { account } = page;
	const called = (id: string) => account.list.find((g) => g.candidate.id === id)?.candidate.label ?? id;
	const hours = trace.rain?.hours?.length ?? 0;
	return (
		<>
			<h1>Trace</h1>
			<Clashes draft={editing} what="The tracing" />
			{spots.length === 0 && (
				<Start of="drop">
					Say where it is wet, and each time somebody saw it wet or dry. Trowel gathers what may feed it from the other benches,
					lays the rain beside it, and says what to try next.
				</Start>
			)}
			{account.offered.map((w) => (
				<Row key={`${w.name}${w.at.along}`} $gap={8}>
					<span>
						{w.name} was read wet on {w.seen}: {w.read}.
					</span>
					<PlainButton onPress={() => add({ name: w.name, at: w.at, shows: w.shows, since: w.seen })}>Trace it</PlainButton>
				</Row>
			))}
			{spots.length > 0 && (
				<Soft>Likely is not certain: each cause with what speaks for and against it, and what to try next.</Soft>
			)}
			<Row $gap={8}>
				<PlainButton onPress={() => add({})}>Add a wet spot</PlainButton>
				<QuietButton isDisabled={asking} onPress={() => void record()}>
					{asking
						? "Asking the weather office …"
						: hours > 0
							? "Ask for the rain again"
							: "Ask the weather office for the rain (simulated)"}
				</QuietButton>
				<label>
					<Soft>or a record as a table: </Soft>
					<input
						type="file"
						accept=".csv,text/csv"
						aria-label="Rain record"
						onChange={(e) => void fromFile(e.target.files?.[0] ?? undefined)}
					/>
				</label>
				{hours > 0 && (
					<Soft>
						{trace.rain?.source}, {trace.rain?.from?.slice(0, 10)} to {trace.rain?.until?.slice(0, 10)}
					</Soft>
				)}
			</Row>
			{account.problem && <p role="alert">{account.problem}</p>}
			{spot && (
				<TabBar label="Wet spots" chosen={spot.id} onChoose={choose} tabs={spots.map((s) => ({ id: s.id, name: s.name }))}>
					<Spot
						key={spot.id}
						view={view}
						page={page}
						editing={editing}
						spot={spot}
						rooms={rooms}
						called={called}
						traced={account.result?.spots.find((s) => s.id === spot.id)}
					/>
				</TabBar>
			)}
		</>
	);
}

function Spot(props: PartProps) {
	const { page, spot, traced } = props;
	const drawn = page.drawn.find((d) => d.spot === spot.id);
	const problem = page.account.spots.find((s) => s.kept.id === spot.id)?.problem;
	return (
		<Stack>
			{problem && <p role="alert">{problem}</p>}
			{traced && <Ranking {...props} drawn={drawn} />}
			{drawn?.rain && <Drawing svg={drawn.rain} most="190px" />}
			{traced?.doubts?.map((d) => (
				<Soft key={d}>{d}</Soft>
			))}
			<Sightings {...props} />
			<Tests {...props} />
			<List {...props} />
			<Folded head="Where the spot is">
				<SpotFields {...props} />
			</Folded>
			{page.account.cautions.length > 0 && (
				<ul aria-label="Cautions">
					{page.account.cautions.map((c) => (
						<li key={c}>{c}</li>
					))}
				</ul>
			)}
		</Stack>
	);
}
