import { useState } from "react";
import type { Schemas } from "../../api/client";
import { askStorms } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Figures, Folded, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { NumberBox } from "../../design/numbers";
import { nextId, rowsOf } from "../../parts/rows";
import { UnitBox } from "../../parts/UnitBox";
import type { PartProps, Visit } from "./Storm";

type Event = Schemas["StormEvent"];
const percent = (p: number) => (p > 0.99 ? "over 99 %" : p < 0.01 ? "under 1 %" : `${(p * 100).toFixed(0)} %`);
const FIGURES = [
	["hail_mm", "Largest hail", 250, "millimetres"],
	["gust_m_s", "Gust", 140, "gust"],
	["from_deg", "From, degrees", 360, null],
	["km", "How far off", 1000, "far"],
] as const;

/** Each with its weight in bits: above nought it speaks for the storm. */
function Factors({ of }: { of: Schemas["StormFactor"][] }) {
	return (
		<ul>
			{of.map((f) => (
				<li key={f.what + f.words}>
					<Figures>
						{f.bits >= 0 ? "+" : "−"}
						{Math.abs(f.bits).toFixed(1)} bits
					</Figures>{" "}
					{f.words}
				</li>
			))}
		</ul>
	);
}

/** Storms on record, ranked by what speaks for each; nothing is matched by date alone. */
export function Which({ view, page, editing }: PartProps) {
	const { which } = page.account;
	const events = rowsOf<Visit, "events", Event>(editing, "events");
	const dated = rowsOf<Visit, "dated", Schemas["DatedKept"]>(editing, "dated");
	const [asking, setAsking] = useState(false);
	const office = async () => {
		setAsking(true);
		try {
			const r = await askStorms(view.job.id);
			say(r.words, { wrong: r.storms.length === 0 });
			// What was entered by hand stays; a storm of a day that is there already is not doubled.
			const fresh = (rows: Event[]) => r.storms.filter((s) => !rows.some((e) => e.on === s.on));
			if (fresh(events.rows).length > 0)
				editing.keep((now) => {
					const all = [...(now.events ?? [])];
					for (const s of fresh(all)) all.push({ id: nextId("E", all), ...s });
					return { ...now, events: all, events_source: r.source };
				});
		} catch (e) {
			say((e as Error).message, { wrong: true });
		}
		setAsking(false);
	};
	const day = view.job.body.brief?.visited_on ?? new Date().toISOString().slice(0, 10);
	return (
		<Stack $gap={10}>
			<Row $gap={8}>
				<PlainButton isDisabled={asking} onPress={() => void office()}>
					{asking ? "Asking the weather office …" : "Ask the weather office (simulated)"}
				</PlainButton>
				<Soft>{editing.draft.events_source}</Soft>
			</Row>
			{which && (
				<>
					<p>
						<b>{which.words}</b>
					</p>
					{which.conflicts.map((c) => (
						<p key={c} role="note">
							{c}
						</p>
					))}
					<ol aria-label="Storms">
						{which.ranked.map((r, k) => (
							<li key={r.event ?? "older"}>
								<b>{r.words.replace(/^./, (x) => x.toUpperCase())}</b> <Figures>{percent(r.p)}</Figures>
								{k === 0 ? (
									<Factors of={r.factors} />
								) : (
									<Folded head="What speaks for it and against">
										<Factors of={r.factors} />
									</Folded>
								)}
							</li>
						))}
					</ol>
				</>
			)}
			<Folded head={`Storms on record (${events.rows.length})`}>
				{events.rows.map((e) => (
					<Columns key={e.id} role="group" aria-label={`Storm ${e.id}`}>
						<Field label="Day" {...events.text(e, "on")} />
						{FIGURES.map(([field, label, most, unit]) => {
							const of = {
								label,
								value: e[field] ?? null,
								least: 0,
								most,
								error: events.wrong(e.id, field),
								onChange: (n: number | null) => events.set(e.id, { [field]: field === "km" ? (n ?? 0) : n }, true),
							};
							return unit ? <UnitBox key={field} of={unit} {...of} /> : <NumberBox key={field} {...of} />;
						})}
						<Row>
							<QuietButton onPress={() => events.remove(e.id)}>Take out</QuietButton>
						</Row>
					</Columns>
				))}
				<PlainButton
					onPress={() =>
						events.add({ id: nextId("E", events.rows), on: day, hail_mm: null, gust_m_s: null, from_deg: null, km: 0 })
					}
				>
					Add a storm people speak of
				</PlainButton>
			</Folded>
			<Folded head={`Dated pictures and statements (${dated.rows.length})`}>
				{dated.rows.map((d) => (
					<Columns key={d.id} role="group" aria-label={`Dated ${d.id}`}>
						<Field label="Day" {...dated.text(d, "on")} />
						<Field label="Who says so" {...dated.text(d, "source")} />
						<Row $gap={8}>
							<Tick value={d.there} onChange={(there) => dated.set(d.id, { there }, true)}>
								The marks were there
							</Tick>
							<QuietButton onPress={() => dated.remove(d.id)}>Take out</QuietButton>
						</Row>
					</Columns>
				))}
				<PlainButton onPress={() => dated.add({ id: nextId("D", dated.rows), on: day, there: false, source: "" })}>
					Add a picture or statement
				</PlainButton>
			</Folded>
		</Stack>
	);
}
