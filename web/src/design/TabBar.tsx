// Parts of one thing, one at a time.
import type { ReactNode } from "react";
import { Tab, TabList, TabPanel, Tabs } from "react-aria-components";
import styled from "styled-components";
import type { Choice } from "./choices";
import { corner, hairline, line, target, tone } from "./tokens";

const Bar = styled(TabList)`
	display: flex;
	flex-wrap: wrap;
	gap: 2px;
	border-bottom: ${hairline};
	margin: 14px 0 12px;
`;
const Part = styled(Tab)`
	display: inline-flex;
	align-items: center;
	min-height: ${target};
	padding: 0 10px;
	cursor: pointer;
	border-bottom: 2px solid transparent;
	text-decoration: underline;
	text-decoration-color: ${tone.plasterLine};
	text-underline-offset: 4px;
	&[data-hovered] { text-decoration-color: ${tone.ink}; }
	&[data-selected] { font-weight: 600; border-bottom: ${line}; border-bottom-color: ${tone.copper}; text-decoration: none; }
	&[data-focus-visible] { outline: 3px solid ${tone.copper}; outline-offset: 1px; border-radius: ${corner}; }
`;
const Panel = styled(TabPanel)`
	&[data-focus-visible] { outline: 3px solid ${tone.copper}; outline-offset: 4px; }
`;

export interface TabBarProps {
	label: string;
	tabs: Choice[];
	chosen: string;
	onChoose: (id: string) => void;
	/** What the chosen part shows. */
	children: ReactNode;
}

/** Parts of one thing, one at a time: arrows go from one to the next. */
export function TabBar({ label, tabs, chosen, onChoose, children }: TabBarProps) {
	return (
		<Tabs selectedKey={chosen} onSelectionChange={(id) => onChoose(String(id))}>
			<Bar aria-label={label}>
				{tabs.map((t) => (
					<Part key={t.id} id={t.id}>
						{t.name}
					</Part>
				))}
			</Bar>
			<Panel id={chosen}>{children}</Panel>
		</Tabs>
	);
}
