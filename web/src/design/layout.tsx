// Where things stand: rows, columns, what is of second rank.
import type { ReactNode } from "react";
import styled from "styled-components";
import { font, hairline, size, target, tone } from "./tokens";

export const Row = styled.div<{ $gap?: number; $between?: boolean }>`
	display: flex;
	flex-wrap: wrap;
	align-items: center;
	gap: ${(p) => p.$gap ?? 10}px;
	${(p) => p.$between && "justify-content: space-between;"}
`;

export const Stack = styled.div<{
	$gap?: number;
}>`display: grid; grid-template-columns: minmax(0, 1fr); gap: ${(p) => p.$gap ?? 12}px; align-content: start;`;

export const Columns = styled.div`display: grid; grid-template-columns: repeat(auto-fit, minmax(230px, 1fr)); gap: 12px 16px; align-items: start;`;

/** A drawing with its list beside it; under it where there is no room. */
export const Beside = styled.div`
	display: grid;
	grid-template-columns: minmax(0, 1.35fr) minmax(250px, 1fr);
	gap: 6px 22px;
	align-items: start;
	margin-top: 8px;
	@media (max-width: 1180px) { grid-template-columns: minmax(0, 1fr); }
`;

export const Soft = styled.span`font-weight: 400; color: ${tone.inkSoft}; font-size: ${size.small};`;

export const Figures = styled.span`font-family: ${font.figures}; font-size: ${size.small};`;

export const Rule = styled.hr`border: 0; border-top: ${hairline}; margin: 4px 0;`;

export const Hazard = styled.b`color: ${tone.brick};`;

const Fold = styled.details`
	summary { min-height: ${target}; display: flex; align-items: center; gap: 8px; cursor: pointer; width: fit-content; list-style: none; text-decoration: underline; text-decoration-color: ${tone.plasterLine}; text-underline-offset: 4px; }
	summary::before { content: "▸"; }
	&[open] summary::before { content: "▾"; }
`;

/** A list that is counted, and opened when somebody wants it. */
export function Folded({ head, children }: { head: string; children: ReactNode }) {
	return (
		<Fold>
			<summary>{head}</summary>
			{children}
		</Fold>
	);
}
