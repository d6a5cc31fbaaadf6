import { useEffect, useRef, useState } from "react";
import { type JobView, type Place, useKeepStop } from "../../api/queries";
import { placeOf, useWhere } from "../../app/where";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Soft } from "../../design/layout";

/** While a walk is recorded elsewhere, every place that is chosen is kept with its time; its text finds its places there later. */
export function Track({ view }: { view: JobView }) {
	const where = useWhere();
	const keep = useKeepStop(view.job.id);
	const last = view.track.at(-1);
	// What was pressed holds at once, before the server has it.
	const [pressed, press] = useState<boolean | null>(null);
	const on = pressed ?? (last !== undefined && last.ended == null);
	const stood = useRef(where.cell);
	const send = useRef(keep.mutate);
	send.current = keep.mutate;
	useEffect(() => {
		if (stood.current === where.cell) return;
		stood.current = where.cell;
		if (on) send.current(placeOf(where.cell));
	}, [where.cell, on]);
	const turn = (to: Place | null) => {
		press(to !== null);
		keep.mutate(to);
	};
	return (
		<>
			{on ? (
				<PlainButton onPress={() => turn(null)}>The recording is over</PlainButton>
			) : (
				<QuietButton onPress={() => turn(placeOf(where.cell))}>I am recording elsewhere</QuietButton>
			)}
			{on && (
				<Soft role="status">
					Places are kept with their time
					{last && last.ended == null && `: ${last.places} so far`}. When its text comes, read it in on the Round.
				</Soft>
			)}
		</>
	);
}
