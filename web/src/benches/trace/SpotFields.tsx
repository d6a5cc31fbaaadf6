import type { Schemas } from "../../api/client";
import { QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row } from "../../design/layout";
import { OnSurface } from "../../parts/OnSurface";
import { rowsOf } from "../../parts/rows";
import type { PartProps } from "./Trace";

type Spot = Schemas["SpotKept"];
const SHOWS = [
	{ id: "ceiling", name: "On a ceiling" },
	{ id: "deck", name: "Under a roof deck" },
	{ id: "wall-high", name: "High on a wall" },
	{ id: "window-head", name: "At the head of an opening" },
	{ id: "window-corner", name: "At a lower corner of an opening" },
	{ id: "wall-low", name: "Low on a wall" },
	{ id: "skirting", name: "At the skirting" },
	{ id: "floor", name: "On the floor" },
];

/** Name and place of a wet spot. */
export function SpotFields({ editing, spot, rooms }: PartProps) {
	const list = rowsOf<Schemas["Trace"], "spots", Spot>(editing, "spots");
	const away = () => {
		const { spots = [], seen = [], tests = [] } = editing.draft;
		editing.keep({
			...editing.draft,
			spots: spots.filter((s) => s.id !== spot.id),
			seen: seen.filter((s) => s.spot !== spot.id),
			tests: tests.filter((t) => t.spot !== spot.id),
		});
	};
	return (
		<>
			<Columns>
				<Field label="Called" {...list.text(spot, "name")} />
				<Chooser
					label="It shows"
					choices={SHOWS}
					value={spot.shows}
					onChange={(s) => s && list.set(spot.id, { shows: s as Spot["shows"] }, true)}
				/>
				<OnSurface
					place={spot.at}
					rooms={rooms}
					roofs
					onChange={(at, now) => list.set(spot.id, { at }, now)}
					onBlur={() => editing.keep()}
					wrong={(f) => list.wrong(spot.id, f)}
				/>
				<Field label="Since when" {...list.text(spot, "since")} />
			</Columns>
			<Row>
				<QuietButton onPress={away}>Take the spot out, with what was seen and tried</QuietButton>
			</Row>
		</>
	);
}
