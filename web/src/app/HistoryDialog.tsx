import { useQuery } from "@tanstack/react-query";
import styled from "styled-components";
import { ask, useUndo } from "../api/queries";
import { Dialog, MainButton, Row, Soft, Stack } from "../design/primitives";
import { hairline } from "../design/tokens";

const Line = styled.li<{ $undone: boolean }>`
	padding: 7px 0;
	border-bottom: ${hairline};
	span { text-decoration: ${(p) => (p.$undone ? "line-through" : "none")}; }
`;

/** Everything that was changed, newest first. */
export function HistoryDialog({ job, onClose }: { job: string; onClose: () => void }) {
	const { data } = useQuery(ask.history(job));
	const undo = useUndo(job);
	return (
		<Dialog title="History" isOpen onClose={onClose}>
			<Stack>
				<Row>
					<MainButton onPress={() => undo.mutate(undefined)}>Undo the last change</MainButton>
				</Row>
				<ul>
					{data?.map((r) => (
						<Line key={r.seq} $undone={r.undone}>
							<span>{r.sentence}</span>
							{r.undo && <Soft> (undo)</Soft>}
							{r.undone && <Soft> (taken back)</Soft>}
							<br />
							<Soft>
								{new Date(r.at).toLocaleString()} · {r.who}
							</Soft>
						</Line>
					))}
				</ul>
			</Stack>
		</Dialog>
	);
}
