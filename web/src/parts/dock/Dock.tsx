import styled from "styled-components";
import type { JobView } from "../../api/queries";
import { useWhere } from "../../app/where";
import { PlainButton } from "../../design/buttons";
import { Row, Soft } from "../../design/layout";
import { at, size, tone } from "../../design/tokens";
import { byCell, reportOf, standing } from "../note/cells";
import { Gestures } from "./Gestures";
import { LatestNotes, NoteLine } from "./NoteLine";
import { Track } from "./Track";
import { Wheel } from "./Wheel";

const Layout = styled.div`
	position: sticky;
	top: 49px;
	max-height: calc(100dvh - 49px);
	overflow: auto;
	scrollbar-width: thin;
	scrollbar-gutter: stable;
	padding: 6px 16px 16px;
	display: grid;
	gap: 10px;
	align-content: start;
	${at.upright} { position: static; max-height: none; grid-template-columns: minmax(240px, 330px) minmax(0, 1fr); padding: 10px 18px; align-items: start; }
	${at.phone} { grid-template-columns: minmax(0, 1fr); padding: 8px 12px; }
`;
const Where = styled.div`h2 { font-size: ${size.large}; }`;
const Lower = styled.div`display: grid; gap: 10px; min-width: 0;`;
const Sticky = styled.div`
	${at.phone} { position: fixed; left: 0; right: 0; bottom: 0; z-index: 15; background: ${tone.plasterLow}; border-top: 1.5px solid ${tone.ink}; padding: 8px 12px calc(8px + env(safe-area-inset-bottom)); }
`;
const NotOnPhone = styled.div`${at.phone} { display: none; }`;

/** The wheel, the place that is set, the note line, the latest notes. */
export function Dock({ view }: { view: JobView }) {
	const where = useWhere();
	const cell = reportOf(view, where.cell);
	const label = view.wheel.labels.find((l) => where.cell.startsWith(`${l.face}.`));
	const nearest = view.coverage.cells.find((c) => c.expected && c.state === "untouched");
	return (
		<Layout>
			<Wheel view={view} />
			<Lower>
				<Where aria-live="polite">
					<h2>{cell?.name}</h2>
					<Soft>
						{[label?.direction && `faces ${label.direction}`, standing(view, where.cell, byCell(view).get(where.cell) ?? [])]
							.filter(Boolean)
							.join(" · ")}
					</Soft>
				</Where>
				<Sticky>
					<NoteLine view={view} />
				</Sticky>
				<Row $gap={6}>
					<Gestures view={view} cell={where.cell} />
					<PlainButton onPress={() => document.querySelector<HTMLInputElement>("#attach-pictures")?.click()}>
						Attach pictures
					</PlainButton>
					<Track view={view} />
				</Row>
				<NotOnPhone>
					<LatestNotes view={view} />
				</NotOnPhone>
				<p>
					<Soft>
						{view.coverage.sentence}
						{nearest && <> Next: {nearest.name.toLowerCase()}.</>}
					</Soft>
				</p>
			</Lower>
		</Layout>
	);
}
