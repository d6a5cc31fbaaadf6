import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type JobView, saveGround } from "../../api/queries";
import { useWhere } from "../../app/where";
import { PlainButton } from "../../design/buttons";
import { type Chosen, Drawing } from "../../design/Drawing";
import { Beside, Row, Soft, Stack } from "../../design/layout";
import { tone } from "../../design/tokens";
import { Asked } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { useDraft } from "../../parts/draft/useDraft";
import { useTrial } from "../../parts/draft/useHalf";
import { Start } from "../../parts/Start";
import { useShown } from "../../parts/units";
import type { GroundPage, GroundRecord } from "./kinds";
import { Nearby } from "./Nearby";
import { Readings } from "./Readings";
import { Storm, useStorm } from "./Storm";
import { Transects } from "./Transects";
import { Mendings, TryGround } from "./TryGround";
import { WaysIn } from "./WaysIn";

const Doubt = styled.p`border-left: 4px solid ${tone.ochre}; padding: 4px 10px; color: ${tone.ochre}; margin-top: 6px;`;
const Said = styled.li`padding: 3px 0; &[data-right="true"]::before { content: "✓ "; color: ${tone.verdigris}; font-weight: 600; }`;

/** Levels, falls, where water stands, and one storm over the whole place. */
export function Ground() {
	const view = useOutletContext<JobView>();
	const [point, setPoint] = useState<{ x: number; y: number } | null>(null);
	return (
		<Asked question={useQuery(ask.ground(view.job.id, point ?? {}))}>
			{(page) => <Bench view={view} page={page} setPoint={setPoint} />}
		</Asked>
	);
}

interface BenchProps {
	view: JobView;
	page: GroundPage;
	/** A point whose way out is drawn. */
	setPoint: (at: { x: number; y: number } | null) => void;
}

function Bench({ view, page, setPoint }: BenchProps) {
	const u = useShown();
	const job = view.job.id;
	const where = useWhere();
	const [chosen, setChosen] = useState<Chosen | null>(null);
	const storm = useStorm(job, page.rev ?? null);
	const editing = useDraft<GroundRecord>(job, "ground", { value: page.ground, rev: page.rev ?? null }, saveGround(job));
	const [trying, setTrying] = useTrial<Schemas["TriedGround"]>(`${job} ground tried`, { ground: editing.draft });
	const tried = useQuery(ask.tryGround(job, trying));
	const fault = trying ? tried.error : null;
	const shown = trying && tried.data ? tried.data.page : page;
	const { account } = shown;
	const levels =
		storm.now && !trying ? Object.fromEntries(storm.now.ponds.map((p) => [p.id, p.volume_m3 > 0 ? p.level_m : -1e9])) : undefined;
	const choose = (c: Chosen) => {
		setChosen(c);
		const face = page.ground.spots?.find((s) => s.id === c.id)?.at?.face;
		if (face) where.setCell(`${face}.ground`);
	};
	// While a change is tried, the same fields write into it and nothing is kept.
	const fields = trying
		? {
				draft: trying.ground ?? editing.draft,
				type: (g: GroundRecord) => setTrying({ ...trying, ground: g }),
				keep: (g?: GroundRecord) => g && setTrying({ ...trying, ground: g }),
				wrong: fault?.field ? { [fault.field]: fault.message } : {},
			}
		: editing;
	return (
		<>
			<h1>Ground</h1>
			<Clashes draft={editing} what="The ground" />
			{account.readings.length < 3 && (
				<Start of="level">
					Read heights at the wall, at 0.6, 1.5 and 3 m out, at a few stations along each face: from three readings on there is a
					surface. Heights are above the finished floor; below it is negative.
				</Start>
			)}
			<ul aria-label="Faces">
				{account.faces.map((f) => (
					<Said key={f.mass + f.face} data-right={f.right}>
						{f.sentence}
					</Said>
				))}
			</ul>
			{account.doubts.map((d) => (
				<Doubt key={d}>{d}</Doubt>
			))}
			{shown.plan && (
				<>
					<Storm page={page} storm={storm} />
					<Beside>
						<div>
							<Drawing
								svg={shown.plan}
								chosen={chosen}
								onChoose={choose}
								onPoint={(x, y) => setPoint({ x, y })}
								levels={levels}
								most="560px"
							/>
							<Soft role="status">
								{shown.point ??
									`Point at the ground to see which way it drains; choose a reading to change it. Heights in ${u.units.startsWith("us") ? "inches" : "millimetres"} from the floor.`}
							</Soft>
						</div>
						<Stack $gap={10}>
							{storm.test && !trying ? (
								<Wet test={storm.test} />
							) : (
								<ul aria-label="Ponds">
									{account.ponds.map((p) => (
										<li key={p.id} style={{ padding: "4px 0" }}>
											<b>
												{p.id} {p.place}
											</b>
											<br />
											{u.depth(p.depth_m)} deep and {u.water(p.volume_m3)} before it runs over; {u.area(p.catchment_m2)} drain
											into it. {p.way_out}
										</li>
									))}
									{account.ponds.length === 0 && <li>Water stands nowhere on the ground that was read.</li>}
								</ul>
							)}
						</Stack>
					</Beside>
				</>
			)}
			<Stack $gap={22} style={{ marginTop: 20 }}>
				{shown.plan && (
					<>
						<Row $between>
							<h2>What would change it</h2>
							{!trying && <PlainButton onPress={() => setTrying({ ground: editing.draft })}>Try a change</PlainButton>}
						</Row>
						{trying && (
							<TryGround
								view={view}
								job={job}
								trying={trying}
								setTrying={setTrying}
								trial={tried.data}
								fault={fault?.message}
								onKeep={() => {
									if (trying.ground) editing.keep(trying.ground);
									setTrying(null);
								}}
							/>
						)}
						{!trying && <Mendings view={view} page={page} />}
					</>
				)}
				<Readings
					job={job}
					page={shown}
					fields={fields}
					chosen={chosen?.kind === "piece" ? chosen.id : null}
					onChoose={(id) => choose({ kind: "piece", id })}
				/>
				<Transects view={view} page={shown} />
				<Nearby page={shown} fields={fields} />
				<WaysIn page={shown} fields={fields} />
			</Stack>
		</>
	);
}

/** Who gets wet, the most first, and whose water it is. */
function Wet({ test }: { test: Schemas["RainTest"] }) {
	return (
		<>
			<ul aria-label="Who gets wet">
				{test.wet.map((w) => (
					<li key={w.pond} style={{ padding: "6px 0" }}>
						<b>{w.pond}</b> {w.sentence}
						<br />
						<Soft>{w.from.map((f) => `${(f.share * 100).toFixed(0)} % ${f.origin}`).join(", ")}</Soft>
					</li>
				))}
				{test.dry.map((d) => (
					<Said key={d} data-right="true">
						{d}
					</Said>
				))}
			</ul>
			{test.ways_in.length > 0 && (
				<ul aria-label="Ways in">
					{test.ways_in.map((w) => (
						<Said key={w.id} data-right={w.clear}>
							{w.sentence}
						</Said>
					))}
				</ul>
			)}
			{test.if_blocked && <p>{test.if_blocked.words}</p>}
			<Soft>{test.balance}</Soft>
		</>
	);
}
