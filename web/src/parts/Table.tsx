import styled from "styled-components";
import { font, hairline, line, size, target, tone } from "../design/tokens";

/** Figures in rows. */
export const Table = styled.table`
	width: 100%;
	border-collapse: collapse;
	font-size: ${size.small};
	th { text-align: left; font-weight: 400; color: ${tone.inkSoft}; padding: 4px 6px; border-bottom: ${line}; vertical-align: bottom; }
	td { padding: 5px 6px; border-bottom: ${hairline}; vertical-align: top; }
	tbody tr { min-height: ${target}; }
	tr[data-chosen="true"] td { background: ${tone.plasterLow}; }
	tr[data-chosen="true"] td:first-child { box-shadow: inset 4px 0 0 ${tone.copper}; }
	td.n { font-family: ${font.figures}; }
	.n { text-align: right; white-space: nowrap; }
	tfoot td { font-weight: 600; border-bottom: 0; }
`;
/** A row is chosen by the button in it: found by keyboard and by a screen reader. */
export const RowButton = styled.button`
	all: unset;
	cursor: pointer;
	min-height: ${target};
	display: flex;
	flex-direction: column;
	justify-content: center;
	width: 100%;
	&:focus-visible { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
	b { font-weight: 600; }
`;
