import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { type JobView, useChoices, useCloseVisit } from "../../api/queries";
import { MainButton, PlainButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Dialog } from "../../design/Dialog";
import { Row, Soft, Stack } from "../../design/layout";
import { at, hairline } from "../../design/tokens";

const Line = styled.li`display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1.3fr); gap: 12px; align-items: center; padding: 6px 0; border-bottom: ${hairline}; ${at.phone} { grid-template-columns: 1fr; }`;

const OPEN = "open";
const SEEN = "seen";

/** Closing is never silent: what was not looked at is listed and answered, or printed as a gap. */
export function CloseVisit({ view, onClose }: { view: JobView; onClose: () => void }) {
	const choices = useChoices();
	const close = useCloseVisit(view.job.id);
	const [answers, setAnswers] = useState<Record<string, string>>({});
	const open = view.coverage.cells.filter((c) => c.expected && c.state === "untouched");
	const left = open.filter((c) => (answers[c.cell] ?? OPEN) === OPEN).length;
	const options = [
		{ id: OPEN, name: "Leave open; it is printed as a gap" },
		{ id: SEEN, name: "Seen, nothing to note" },
		...(choices?.limits ?? []).map((r) => ({ id: r.value, name: `Could not be seen: ${r.name}` })),
	];
	const send = () => {
		const marks = Object.entries(answers)
			.filter(([, a]) => a !== OPEN)
			.map(([cell, a]) =>
				a === SEEN ? { cell, state: "seen" } : { cell, state: "limited", reason: a, detail: "" },
			) as Schemas["Mark"][];
		close.mutate({ base: view.job.rev, answers: marks }, { onSuccess: onClose });
	};
	return (
		<Dialog title="Close the visit" isOpen onClose={onClose} away="Not yet" wide>
			<Stack>
				<p>
					{open.length === 0
						? "Every place this visit asks for was looked at or answered."
						: `${open.length === 1 ? "One place was" : `${open.length} places were`} not looked at. Was it seen, or could it not be seen?`}
				</p>
				<ul>
					{open.map((c) => (
						<Line key={c.cell}>
							<span>{c.name}</span>
							<Chooser
								label={c.name}
								hideLabel
								value={answers[c.cell] ?? OPEN}
								choices={options}
								onChange={(a) => a && setAnswers({ ...answers, [c.cell]: a })}
							/>
						</Line>
					))}
				</ul>
				{left > 0 && (
					<Soft>{left === 1 ? "One place stays" : `${left} places stay`} open and will be printed as not looked at.</Soft>
				)}
				<Row $between>
					<MainButton onPress={send}>Close the visit</MainButton>
					{open.length > 1 && (
						<PlainButton onPress={() => setAnswers(Object.fromEntries(open.map((c) => [c.cell, SEEN])))}>
							All of them were seen
						</PlainButton>
					)}
				</Row>
			</Stack>
		</Dialog>
	);
}
