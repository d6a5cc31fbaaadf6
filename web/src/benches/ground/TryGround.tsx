import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type JobView } from "../../api/queries";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { line, tone } from "../../design/tokens";
import { Compared, recommendationText } from "../../parts/Compared";
import { useStay } from "../../parts/draft/useHalf";
import { Item } from "../../parts/Item";
import { useShown } from "../../parts/units";
import type { GroundPage } from "./kinds";
import { Dig, useRecommend } from "./Transects";

const Sheet = styled.section`border: ${line}; border-left: 4px solid ${tone.copper}; border-radius: 4px; padding: 12px;`;

type Tried = Schemas["TriedGround"];

interface TryProps {
	view: JobView;
	job: string;
	trying: Tried;
	setTrying: (t: Tried | null) => void;
	trial: Schemas["GroundTrial"] | undefined;
	fault: string | undefined;
	onKeep: () => void;
}

/** A change across gutters and ground that is tried: every wet place before and after. */
export function TryGround({ view, job, trying, setTrying, trial, fault, onKeep }: TryProps) {
	const u = useShown();
	const recommend = useRecommend(view);
	const rain = useQuery(ask.rainwater(job, {})).data?.rainwater;
	const [words, setWords] = useStay(`${job} words of a change`, "");
	const end = () => {
		setWords("");
		setTrying(null);
	};
	const rainwater = trying.rainwater ?? rain;
	const outlets = (rainwater?.gutters ?? []).flatMap((g, gi) => (g.outlets ?? []).map((o, oi) => ({ g, gi, o, oi })));
	const setOutlet = (gi: number, oi: number, distance: string) => {
		if (!rainwater) return;
		const gutters = (rainwater.gutters ?? []).map((g, i) =>
			i === gi ? { ...g, outlets: (g.outlets ?? []).map((o, k) => (k === oi ? { ...o, distance } : o)) } : g,
		);
		setTrying({ ...trying, rainwater: { ...rainwater, gutters } });
	};
	const changes = [...(words ? [words] : []), ...(trial?.changes ?? [])];
	const face = trial?.page.account.ponds[0]?.face ?? "front";
	return (
		<Sheet aria-label="A change that is tried">
			<Stack>
				<h3>Trying a change</h3>
				<Soft>
					Lead an outlet farther out here; raise or lower readings, add a drain, move a spray head in the lists below. What was
					read stays as it is until you keep the change.
				</Soft>
				<Columns>
					{outlets.map(({ g, gi, o, oi }) => (
						<Field
							key={`${g.id}${oi}`}
							label={`${g.id} lets go so far from the wall`}
							value={o.distance ?? ""}
							onChange={(d) => setOutlet(gi, oi, d)}
						/>
					))}
				</Columns>
				<Field
					label="What is changed, for the report"
					value={words}
					onChange={setWords}
					hint="Drain in the yard, led to the street"
				/>
				{fault && <p role="alert">{fault}</p>}
				{trial && (
					<>
						<p>
							{changes.length > 0 && <b>{changes.join("; ")}. </b>}
							{trial.sentence}
						</p>
						<Compared rows={trial.rows} />
					</>
				)}
				<Row $gap={8}>
					<MainButton
						isDisabled={!trial || !!fault || changes.length === 0}
						onPress={() => {
							// The trial goes when it is kept, and not before.
							if (trial)
								recommend(
									face,
									recommendationText(u, { changes, sentence: trial.sentence, rows: [...trial.rows.slice(0, 1), ...trial.rows] }),
									end,
								);
						}}
					>
						Keep as a recommendation
					</MainButton>
					<PlainButton
						onPress={() => {
							setWords("");
							onKeep();
						}}
						isDisabled={!!fault || !!trying.rainwater}
					>
						The ground is like this: keep as read
					</PlainButton>
					<QuietButton onPress={end}>Discard</QuietButton>
				</Row>
			</Stack>
		</Sheet>
	);
}

/** What would take the water away from each wet place, in the order the practice tries it. */
export function Mendings({ view, page }: { view: JobView; page: GroundPage }) {
	const recommend = useRecommend(view);
	const [asked, setAsked] = useState(false);
	const found = useQuery({
		...ask.mending(view.job.id, `${view.roof_rev} ${view.rainwater_rev} ${page.rev} ${view.practice_version}`),
		enabled: asked,
	});
	if (!asked)
		return (
			<Row>
				<PlainButton onPress={() => setAsked(true)}>What would end it, cheapest and farthest upstream first</PlainButton>
			</Row>
		);
	if (found.error) return <p role="alert">{found.error.message}</p>;
	if (!found.data) return <p aria-busy="true">Trying each change in the storm …</p>;
	return (
		<Stack>
			{found.data.length === 0 && <p>Nothing stands against a wall in the design storm.</p>}
			{found.data.some((m) => m.remedies.some((r) => r.digs)) && <Dig />}
			{found.data.map((m) => (
				<div key={m.pond}>
					<h3>
						{m.pond} {m.place} <Soft>{m.school.toLowerCase()}</Soft>
					</h3>
					<ol>
						{m.remedies.map((r) => (
							<Item key={r.words}>
								<span>
									<b>{r.words}</b>
									<br />
									<Soft>{r.sentence}</Soft>
								</span>
								<QuietButton
									onPress={() =>
										recommend(
											page.account.ponds.find((p) => p.id === m.pond)?.face ?? "front",
											`${r.words}. Water at the ${m.place}: ${r.sentence}${r.digs ? " Have buried services located before digging." : ""}`,
										)
									}
								>
									Keep as recommendation
								</QuietButton>
							</Item>
						))}
					</ol>
				</div>
			))}
		</Stack>
	);
}
