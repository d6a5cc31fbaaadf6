import { Menu, MenuItem, MenuTrigger, Popover } from "react-aria-components";
import styled from "styled-components";
import { type JobView, useChoices, useKeepLine, useMark } from "../../api/queries";
import { placeOf } from "../../app/where";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Row } from "../../design/layout";
import { corner, line, size, target, tone } from "../../design/tokens";
import { markOf, reportOf } from "../note/cells";

const Box = styled(
	Popover,
)`background: ${tone.plaster}; border: ${line}; border-radius: ${corner}; box-shadow: 0 6px 20px rgb(0 0 0 / 0.22); max-height: 60vh; overflow: auto;`;
const Choice = styled(
	MenuItem,
)`min-height: ${target}; padding: 8px 14px; cursor: pointer; display: flex; align-items: center; font-size: ${size.text}; &[data-focused] { background: ${tone.plasterLow}; outline: 2px solid ${tone.copper}; outline-offset: -2px; }`;

/** Seen, done right, could not be seen: one gesture each, for the cell that is set. */
export function Gestures({ view, cell }: { view: JobView; cell: string }) {
	const job = view.job.id;
	const mark = useMark(job);
	const keep = useKeepLine(job);
	const choices = useChoices();
	const set = markOf(view, cell);
	const state = reportOf(view, cell)?.state;
	const base = set?.rev ?? null;
	return (
		<Row $gap={6}>
			{state === "limited" || (state === "seen" && set) ? (
				<QuietButton onPress={() => mark.mutate({ cell, base, state: null })}>
					{state === "limited" ? "It was seen after all" : "Not seen yet"}
				</QuietButton>
			) : (
				<>
					{state === "untouched" && (
						<PlainButton id="mark-seen" onPress={() => mark.mutate({ cell, base, state: { state: "seen" } })}>
							Seen, nothing to note
						</PlainButton>
					)}
					<PlainButton onPress={() => keep.mutate({ line: "", place: placeOf(cell), done_right: true })}>Done right</PlainButton>
					<MenuTrigger>
						<PlainButton>Could not be seen ▾</PlainButton>
						<Box>
							<Menu
								items={choices?.limits ?? []}
								onAction={(reason) =>
									mark.mutate({ cell, base, state: { state: "limited", reason: reason as never, detail: "" } })
								}
							>
								{(r) => (
									<Choice id={r.value} textValue={r.name}>
										because {r.name}
									</Choice>
								)}
							</Menu>
						</Box>
					</MenuTrigger>
				</>
			)}
		</Row>
	);
}
