import styled from "styled-components";
import type { JobView } from "../../api/queries";
import { useWhere } from "../../app/where";
import { QuietButton } from "../../design/buttons";
import { Dialog } from "../../design/Dialog";
import { Figures, Soft, Stack } from "../../design/layout";
import { hairline, tone } from "../../design/tokens";

const List = styled.ol`li { border-top: ${hairline}; }`;
const Faces = styled.dl`display: grid; grid-template-columns: auto auto 1fr; gap: 2px 14px; dd { margin: 0; } progress { width: 100%; max-width: 260px; accent-color: ${tone.verdigris}; }`;

/** What is left to look at, in the order of the shortest way round from here. */
export function LeftDialog({ view, onClose }: { view: JobView; onClose: () => void }) {
	const where = useWhere();
	const face = where.cell.split(".")[0];
	const left = (view.left.find((l) => l.here === face) ?? view.left[0])?.left ?? [];
	return (
		<Dialog title="What is left" isOpen onClose={onClose} wide>
			<Stack>
				<Soft>
					{left.length === 0
						? "Everything this visit asks for has been looked at or limited."
						: `In the order of the shortest way round from the ${face === "inside" ? "front" : face} face.`}
				</Soft>
				<List>
					{left.map((l) => (
						<li key={`${l.words} ${l.item ?? ""}`}>
							<QuietButton
								style={{ textAlign: "left" }}
								onPress={() => {
									where.setCell(l.face ? `${l.face}.${l.zone}` : "inside");
									onClose();
								}}
							>
								{l.words}
							</QuietButton>
						</li>
					))}
				</List>
				<Faces>
					{view.progress.map((p) => [
						<dt key={p.what}>{p.what}</dt>,
						<dd key={`${p.what} of`}>
							<Figures>
								{p.done} of {p.of}
							</Figures>
						</dd>,
						<dd key={`${p.what} bar`}>
							<progress value={p.done} max={p.of} aria-label={p.what} />
						</dd>,
					])}
				</Faces>
			</Stack>
		</Dialog>
	);
}
