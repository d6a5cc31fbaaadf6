import { useState } from "react";
import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Folded, Row, Soft } from "../../design/layout";
import { nextId, rowsOf } from "../../parts/rows";
import type { PartProps } from "./Trace";

type Seen = Schemas["SeenKept"];

/** Each time somebody saw the spot: a dry one soon after the right rain says as much as a wet one. */
export function Sightings({ view, editing, spot }: PartProps) {
	const list = rowsOf<Schemas["Trace"], "seen", Seen>(editing, "seen");
	const day = view.job.body.brief?.visited_on ?? new Date().toISOString().slice(0, 10);
	const [at, setAt] = useState(`${day} 10:00`);
	const mine = list.rows.filter((s) => s.spot === spot.id);
	const when = at.trim().replace(" ", "T");
	const right = /^\d{4}-\d\d-\d\dT\d\d:\d\d$/.test(when);
	const saw = (state: Seen["state"]) => list.add({ id: nextId("W", list.rows), spot: spot.id, at: when, state });
	return (
		<Folded head={`Seen ${mine.length} ${mine.length === 1 ? "time" : "times"}`}>
			<Row $gap={8}>
				<Field
					label="When, as 2026-11-18 10:00"
					value={at}
					onChange={setAt}
					error={right ? undefined : "Write day and hour as 2026-11-18 10:00."}
				/>
				<PlainButton isDisabled={!right} onPress={() => saw("wet")}>
					It was wet
				</PlainButton>
				<PlainButton isDisabled={!right} onPress={() => saw("dry")}>
					It was dry
				</PlainButton>
			</Row>
			<ul aria-label="Sightings">
				{[...mine]
					.sort((a, b) => b.at.localeCompare(a.at))
					.map((s) => (
						<li key={s.id}>
							{s.at.replace("T", " ")} <b>{s.state}</b> <Soft>{list.wrong(s.id, "at") ?? list.wrong(s.id, "state")}</Soft>
							<QuietButton onPress={() => list.remove(s.id)}>Take out</QuietButton>
						</li>
					))}
			</ul>
		</Folded>
	);
}
