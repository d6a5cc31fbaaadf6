// Parts of one thing, one at a time.
import type { ReactNode } from "react";
import styled from "styled-components";
import { QuietButton } from "./buttons";
import type { Choice } from "./choices";
import { hairline, line, tone } from "./tokens";

const Bar = styled.nav`
	display: flex;
	flex-wrap: wrap;
	gap: 2px;
	border-bottom: ${hairline};
	margin: 14px 0 12px;
	button[aria-pressed="true"] { font-weight: 600; border-bottom: ${line}; border-bottom-color: ${tone.copper}; border-radius: 0; }
`;

export interface TabBarProps {
	label: string;
	tabs: Choice[];
	chosen: string;
	onChoose: (id: string) => void;
	/** What the chosen part shows. */
	children: ReactNode;
}

/** Parts of one thing, one at a time. */
export function TabBar({ label, tabs, chosen, onChoose, children }: TabBarProps) {
	return (
		<>
			<Bar aria-label={label}>
				{tabs.map((t) => (
					<QuietButton key={t.id} aria-pressed={t.id === chosen} onPress={() => onChoose(t.id)}>
						{t.name}
					</QuietButton>
				))}
			</Bar>
			{children}
		</>
	);
}
