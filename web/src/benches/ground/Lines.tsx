import { useState } from "react";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row } from "../../design/layout";
import { say } from "../../design/Notices";
import { useHalf } from "../../parts/draft/useHalf";
import type { GroundRecord } from "./kinds";

const LINES = [
	{ id: "kerb", name: "Kerb, edge of a bed" },
	{ id: "swale", name: "Bottom of a swale" },
	{ id: "lot-line", name: "Lot line: beyond it is the neighbour's" },
	{ id: "bend", name: "Any other bend" },
];

/** Lines through readings: the ground bends along them. */
export function Lines({
	job,
	draft,
	keep,
	fault,
}: {
	job: string;
	draft: GroundRecord;
	keep: (g?: GroundRecord) => void;
	fault: string | undefined;
}) {
	const lines = draft.lines ?? [];
	const [through, setThrough] = useHalf(`${job} line through`);
	const [kind, setKind] = useState("kerb");
	const add = () => {
		const spots = through.split(/[\s,;]+/).filter(Boolean);
		const missing = spots.find((s) => (draft.spots ?? []).every((p) => p.id !== s));
		if (missing) return say(`There is no reading ${missing}. Read it first, or leave it out of the line.`, { wrong: true });
		if (spots.length < 2) return say("A line runs through at least two readings: type their names, P1 P2 P3.", { wrong: true });
		keep({ ...draft, lines: [...lines, { kind, spots }] } as GroundRecord);
		setThrough("");
	};
	return (
		<div>
			<h3>Lines through readings</h3>
			{fault && <p role="alert">{fault}</p>}
			<ul>
				{lines.map((l, k) => (
					<li key={`${l.kind}${l.spots.join()}`}>
						<Row $between>
							<span>
								{LINES.find((n) => n.id === l.kind)?.name}: {l.spots.join(", ")}
							</span>
							<QuietButton onPress={() => keep({ ...draft, lines: lines.filter((_, i) => i !== k) })}>Take it away</QuietButton>
						</Row>
					</li>
				))}
			</ul>
			<Columns>
				<Chooser label="A line that is" choices={LINES} value={kind} onChange={(k) => k && setKind(k)} />
				<Field label="Through the readings" value={through} onChange={setThrough} hint="P4 P9 P14" />
				<PlainButton onPress={add} isDisabled={!through.trim()}>
					Draw the line
				</PlainButton>
			</Columns>
		</div>
	);
}
