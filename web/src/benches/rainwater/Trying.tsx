import { useState } from "react";
import styled from "styled-components";
import { newId, type Schemas } from "../../api/client";
import { type JobView, type Note, useNewNote } from "../../api/queries";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { line, tone } from "../../design/tokens";
import { Compared, recommendationText } from "../../parts/Compared";
import { useShown } from "../../parts/units";
import type { RainPage } from "./kinds";

const Sheet = styled.section`border: ${line}; border-left: 4px solid ${tone.copper}; border-radius: 4px; padding: 12px;`;

interface TryingProps {
	view: JobView;
	comparison: Schemas["Comparison"] | undefined;
	fault: string | undefined;
	onKeep: () => void;
	onDiscard: () => void;
}

/** A change that is tried: nothing is kept until somebody says how. */
export function Trying({ view, comparison, fault, onKeep, onDiscard }: TryingProps) {
	const u = useShown();
	const recommend = useNewNote(view.job.id);
	const keep = () => {
		if (!comparison) return;
		const body: Note = {
			// What is at no gutter is at a flat roof.
			place: { face: comparison.face ?? "front", zone: comparison.gutter ? "edge" : "roof", station: comparison.gutter ?? null },
			kind: "recommendation",
			text: recommendationText(u, comparison),
			measures: [],
			at: new Date().toISOString(),
		};
		recommend.mutate(
			{ id: newId(), body },
			{
				onSuccess: () => {
					say("Kept as a recommendation.");
					onDiscard();
				},
			},
		);
	};
	const nothing = !comparison || comparison.changes.length === 0;
	return (
		<Sheet aria-label="A change that is tried">
			<Stack>
				<h3>Trying a change</h3>
				<Soft>Change the gutters below. What was met on the walk stays as it is until you keep the change.</Soft>
				{fault && <p role="alert">{fault}</p>}
				{!nothing && (
					<>
						<p>
							<b>{comparison.changes.join("; ")}.</b> {comparison.sentence}
						</p>
						<Compared rows={comparison.rows} />
					</>
				)}
				<Row $gap={8}>
					<MainButton onPress={keep} isDisabled={nothing || !!fault}>
						Keep as a recommendation
					</MainButton>
					<PlainButton onPress={onKeep} isDisabled={nothing || !!fault}>
						It is built like this: keep as met
					</PlainButton>
					<QuietButton onPress={onDiscard}>Discard</QuietButton>
				</Row>
			</Stack>
		</Sheet>
	);
}

interface CostsProps {
	costs: RainPage["costs"];
	draft: Schemas["Rainwater"];
	onKeep: (next: Schemas["Rainwater"]) => void;
}

/** What the changes cost here: their order follows it. */
export function Costs({ costs, draft, onKeep }: CostsProps) {
	const [text, setText] = useState<Record<string, string>>({});
	const [open, setOpen] = useState(false);
	return (
		<div>
			<QuietButton aria-expanded={open} onPress={() => setOpen(!open)}>
				{open ? "Done with costs" : "What changes cost here"}
			</QuietButton>
			{open && (
				<Columns>
					{costs.map((c) => (
						<Field
							key={c.change}
							label={`${c.words.replace(/^./, (x) => x.toUpperCase())} (usually ${c.usual})`}
							value={text[c.change] ?? String(draft.costs?.[c.change] ?? "")}
							onChange={(v) => setText({ ...text, [c.change]: v })}
							onBlur={() => {
								const typed = text[c.change];
								if (typed === undefined) return;
								const { [c.change]: _, ...rest } = draft.costs ?? {};
								const value = Number(typed.replace(",", "."));
								if (typed.trim() === "") onKeep({ ...draft, costs: rest });
								else if (Number.isFinite(value)) onKeep({ ...draft, costs: { ...rest, [c.change]: value } });
								else say("Type the cost as a number, for example 240.", { wrong: true });
							}}
						/>
					))}
				</Columns>
			)}
		</div>
	);
}
