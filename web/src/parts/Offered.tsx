import { newId, type Schemas } from "../api/client";
import { type JobView, type Note, useKeepLine, useNewNote } from "../api/queries";
import { QuietButton } from "../design/buttons";
import { Soft } from "../design/layout";
import { say } from "../design/Notices";
import { Item } from "./Item";

interface OfferedProps {
	view: JobView;
	offered: Schemas["Offered"][];
	name: string;
}

/** What the computation found wrong: each becomes a note at its place when somebody says so, and never unasked. */
export function Offered({ view, offered, name }: OfferedProps) {
	const line = useKeepLine(view.job.id);
	const note = useNewNote(view.job.id);
	if (offered.length === 0) return null;
	const keep = (o: Schemas["Offered"]) => {
		const kept = { onSuccess: () => say("Noted on the round.") };
		if (!o.limitation) return line.mutate({ line: o.line, place: o.place, conditions: [o.condition] }, kept);
		const body: Note = {
			place: o.place,
			kind: "limitation",
			text: o.line,
			measures: [],
			at: new Date().toISOString(),
		};
		note.mutate({ id: newId(), body }, kept);
	};
	return (
		<ul aria-label={name}>
			{offered.map((o) => (
				<Item key={o.line}>
					<span>{o.line.replace(/^./, (x) => x.toUpperCase())}</span>
					{view.notes.some((n) => n.body.text === o.line) ? (
						<Soft>noted</Soft>
					) : (
						<QuietButton onPress={() => keep(o)}>{o.limitation ? "Note as not seen" : "Note it"}</QuietButton>
					)}
				</Item>
			))}
		</ul>
	);
}
