// Parts of one thing, one at a time.
import type { ReactNode } from "react";
import { Tab, TabList, TabPanel, Tabs } from "react-aria-components";
import styled from "styled-components";
import type { Choice } from "./choices";
import { hairline, target, tone } from "./tokens";

const Bar = styled(TabList)`
	display: flex;
	gap: 2px;
	overflow-x: auto;
	border-bottom: ${hairline};
	margin: 14px 0 12px;
`;

const TabName = styled(Tab)`
	padding: 11px 12px 7px;
	min-height: ${target};
	white-space: nowrap;
	cursor: pointer;
	color: ${tone.inkSoft};
	border-bottom: 4px solid transparent;
	outline: none;
	&[data-selected] { color: ${tone.ink}; font-weight: 600; border-bottom-color: ${tone.copper}; }
	&[data-focus-visible] { outline: 3px solid ${tone.copper}; outline-offset: -3px; }
`;

export interface TabBarProps {
	label: string;
	tabs: Choice[];
	chosen: string;
	onChoose: (id: string) => void;
	/** What the chosen tab shows. */
	children: ReactNode;
}

/** Parts of one thing, one at a time. */
export function TabBar({ label, tabs, chosen, onChoose, children }: TabBarProps) {
	return (
		<Tabs selectedKey={chosen} onSelectionChange={(k) => onChoose(String(k))}>
			<Bar aria-label={label} items={tabs}>
				{(t) => <TabName id={(t as Choice).id}>{(t as Choice).name}</TabName>}
			</Bar>
			<TabPanel id={chosen}>{children}</TabPanel>
		</Tabs>
	);
}
