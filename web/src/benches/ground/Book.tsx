import { useState } from "react";
import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Columns, Row, Stack } from "../../design/layout";
import type { GroundRecord } from "./kinds";

interface BookProps {
	draft: GroundRecord;
	says: string;
	type: (g: GroundRecord) => void;
	keep: (g?: GroundRecord) => void;
	wrong: { [field: string]: string };
}

/** The level book: backsight, sights between, foresight. */
export function Book({ draft, says, type, keep, wrong }: BookProps) {
	const lines = draft.book?.lines ?? [];
	const [open, setOpen] = useState(false);
	const set = (k: number, part: Partial<Schemas["BookLine"]>) =>
		type({ ...draft, book: { ...draft.book, lines: lines.map((l, i) => (i === k ? { ...l, ...part } : l)) } } as GroundRecord);
	const fault = Object.entries(wrong).find(([field]) => field.startsWith("book"))?.[1];
	return (
		<div>
			<Row $between>
				<h3>Level book</h3>
				<QuietButton aria-expanded={open} onPress={() => setOpen(!open)}>
					{open ? "Close the book" : "Open the book"}
				</QuietButton>
			</Row>
			{says && <p>{says}</p>}
			{fault && <p role="alert">{fault}</p>}
			{open && (
				<Stack>
					<Field
						label="Height of the first point above the floor"
						value={draft.book?.start ?? ""}
						onChange={(start) => type({ ...draft, book: { ...draft.book, lines, start } } as GroundRecord)}
						onBlur={() => keep(draft)}
					/>
					{lines.map((l, k) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: a line of the book is its place in it
						<Columns key={k} style={{ gridTemplateColumns: "repeat(auto-fit, minmax(110px, 1fr))" }}>
							<Field
								label={`Line ${k + 1}: point`}
								value={l.point ?? ""}
								onChange={(point) => set(k, { point })}
								onBlur={() => keep(draft)}
							/>
							<Field label="Backsight" value={l.back ?? ""} onChange={(back) => set(k, { back })} onBlur={() => keep(draft)} />
							<Field
								label="Between"
								value={l.between ?? ""}
								onChange={(between) => set(k, { between })}
								onBlur={() => keep(draft)}
							/>
							<Field label="Foresight" value={l.fore ?? ""} onChange={(fore) => set(k, { fore })} onBlur={() => keep(draft)} />
						</Columns>
					))}
					<Row $gap={8}>
						<PlainButton
							onPress={() =>
								type({
									...draft,
									book: { start: draft.book?.start ?? "0", lines: [...lines, { point: "", back: "", between: "", fore: "" }] },
								} as GroundRecord)
							}
						>
							Add a line
						</PlainButton>
						{lines.length > 0 && (
							<QuietButton onPress={() => keep({ ...draft, book: { ...draft.book, lines: lines.slice(0, -1) } } as GroundRecord)}>
								Take the last line away
							</QuietButton>
						)}
					</Row>
				</Stack>
			)}
		</div>
	);
}
