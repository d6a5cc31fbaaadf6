// Changes that were tried, the best first: each can be kept as a recommendation.
import { newId } from "../../api/client";
import { type JobView, type Note, useNewNote } from "../../api/queries";
import { QuietButton } from "../../design/buttons";
import { Soft } from "../../design/layout";
import { say } from "../../design/Notices";
import { tone } from "../../design/tokens";
import { Item } from "../../parts/Item";

export interface Change {
	words: string;
	/** Before and after. */
	sentence: string;
	/** It is not enough by itself. */
	falls_short?: boolean;
	/** About what it costs, where that is known. */
	cost?: number;
}

export interface ChangesProps {
	view: JobView;
	label: string;
	/** What would be changed, and where its note goes. */
	of: string;
	place: Note["place"];
	changes: Change[];
}

/** Changes that were tried, with what each would come to. */
export function Changes({ view, label, of, place, changes }: ChangesProps) {
	const recommend = useNewNote(view.job.id);
	if (changes.length === 0) return null;
	const keep = (c: Change) => {
		const body: Note = {
			place,
			kind: "recommendation",
			text: `${of}: ${c.words.replace(/^./, (x) => x.toLowerCase())}. ${c.sentence}`,
			measures: [],
			at: new Date().toISOString(),
		};
		recommend.mutate({ id: newId(), body }, { onSuccess: () => say("Kept as a recommendation.") });
	};
	return (
		<ul aria-label={label}>
			{changes.map((c) => (
				<Item key={c.words}>
					<span>
						<b>{c.words}</b>
						{c.falls_short && <Soft> does not end it</Soft>}{" "}
						{c.cost !== undefined && <span style={{ color: tone.ochre }}>about {c.cost} (estimate)</span>}
						<br />
						<Soft>{c.sentence}</Soft>
					</span>
					<QuietButton onPress={() => keep(c)}>Keep as recommendation</QuietButton>
				</Item>
			))}
		</ul>
	);
}
