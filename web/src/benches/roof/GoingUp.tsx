import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { PlainButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Hazard, Row, Soft, Stack } from "../../design/layout";
import { hairline, tone } from "../../design/tokens";
import { halfTyped, typeHalf } from "../../parts/draft/keeper";
import { useShown } from "../../parts/units";
import type { Editing } from "./useRoof";

type Facts = Schemas["GoingUp"];

const Box = styled.section`border-top: ${hairline}; padding: 12px 0; ul { margin: 4px 0 4px 18px; list-style: disc; } p + p { margin-top: 4px; }`;
const Caution = styled.p`border-left: 4px solid ${tone.brick}; padding: 4px 10px;`;

const MET: [keyof Facts & string, string][] = [
	["mossy", "Moss or algae underfoot"],
	["wet", "Wet or dewy"],
	["frost", "Frost, ice or snow"],
	["loose", "Loose granules underfoot"],
	["brittle", "Breaks or gives underfoot"],
	["windy", "Wind that pushes a person"],
	["lines", "Lines overhead within"],
	["protected", "Anchors, harness and somebody trained are here"],
];
/** What a person and a ladder keep from a line, metres. */
const KEEP_OFF_M = 3;
const LANDINGS = [
	{ id: "firm", name: "Firm and level" },
	{ id: "uncertain", name: "Soft or sloping" },
	{ id: "nowhere", name: "Nowhere to stand it" },
];

/** Up or not: what was met on the day, what follows, and what is printed. */
export function GoingUp({ job, account, editing }: { job: string; account: Schemas["Account"]; editing: Editing }) {
	const { draft, keep } = editing;
	const u = useShown();
	const facts: Facts = draft.going_up ?? {};
	// A reason that is typed and not printed yet stays, whatever bench is looked at meanwhile.
	const half = `${job} going up`;
	const [why, setText] = useState(halfTyped(half) ?? facts.overruled ?? "");
	const setWhy = (text: string) => {
		setText(text);
		typeHalf(half, text.trim() && text !== facts.overruled ? text : null);
	};
	const set = (part: Partial<Facts>) => keep({ ...draft, going_up: { ...facts, ...part } });
	const kept_down = account.masses.some((m) => m.access.decision !== "walk");
	return (
		<Stack>
			<Columns>
				{MET.map(([key, name]) => (
					<Tick key={key} value={Boolean(facts[key])} onChange={(v) => set({ [key]: v })}>
						{key === "lines" ? `${name} ${u.length(KEEP_OFF_M, 0)}` : name}
					</Tick>
				))}
				<Chooser
					label="Where the ladder would stand"
					choices={LANDINGS}
					value={facts.landing ?? "firm"}
					onChange={(k) => k && set({ landing: k as NonNullable<Facts["landing"]> })}
				/>
			</Columns>
			{account.masses.map((m) => (
				<Box key={m.id} aria-label={`Going up on the ${m.name}`}>
					<h2>
						{m.name.replace(/^./, (c) => c.toUpperCase())}: {m.access.decision === "stay-off" && <Hazard>Hazard · </Hazard>}
						{m.access.words.toLowerCase()}
					</h2>
					{m.access.reasons.length > 0 ? (
						<ul>
							{m.access.reasons.map((r) => (
								<li key={r.why}>{r.why}</li>
							))}
						</ul>
					) : (
						<Soft>Nothing that was said speaks against it.</Soft>
					)}
					{m.access.ladder && <p>{m.access.ladder.words}</p>}
					{m.access.tread && <p>Tread: {m.access.tread}</p>}
					{m.access.limitation && (
						<p>
							<Soft>Printed as a limit:</Soft> {m.access.limitation}
						</p>
					)}
				</Box>
			))}
			{[...new Set(account.masses.flatMap((m) => m.access.cautions))].map((c) => (
				<Caution key={c}>{c}</Caution>
			))}
			<Soft>
				By the practice's school: {account.masses[0]?.access.school.toLowerCase()}. Local rules for work at height decide.
			</Soft>
			{/* What is typed stays in sight until it is printed or taken out, also when the advice has changed meanwhile. */}
			{(kept_down || facts.overruled || why.trim()) && (
				<Stack $gap={6}>
					<Field
						label="Going up all the same: the reason is printed in the report"
						value={why}
						onChange={setWhy}
						rows={2}
						placeholder="Who decided, what made it safe"
					/>
					<Row>
						<PlainButton
							onPress={() => {
								typeHalf(half, null);
								set({ overruled: why });
							}}
							isDisabled={!why.trim()}
						>
							Print this reason
						</PlainButton>
						{facts.overruled && (
							<PlainButton
								onPress={() => {
									setWhy("");
									set({ overruled: "" });
								}}
							>
								Follow the advice
							</PlainButton>
						)}
					</Row>
				</Stack>
			)}
		</Stack>
	);
}
