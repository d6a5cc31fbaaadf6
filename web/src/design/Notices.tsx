// Short messages about what happened: said by a screen reader, gone by themselves or by a press.
import { useEffect, useSyncExternalStore } from "react";
import { Button } from "react-aria-components";
import styled from "styled-components";
import { at, corner, line, target, tone } from "./tokens";

interface Notice {
	id: number;
	text: string;
	wrong: boolean;
	action?: { name: string; run: () => void } | undefined;
}

let notices: Notice[] = [];
let next = 1;
const listeners = new Set<() => void>();

function set(list: Notice[]) {
	notices = list;
	for (const l of listeners) l();
}

/** Says something; faults stay until they are put away. */
export function say(text: string, options: { wrong?: boolean; action?: Notice["action"] } = {}) {
	const notice = { id: next++, text, wrong: options.wrong ?? false, action: options.action };
	set([...notices.filter((n) => n.text !== text).slice(-2), notice]);
}

const Place = styled.div`position: fixed; left: 50%; transform: translateX(-50%); bottom: 16px; display: grid; gap: 8px; width: min(560px, calc(100vw - 24px)); z-index: 40; ${at.phone} { bottom: 88px; }`;
const Paper = styled.div<{ $wrong: boolean }>`
	display: flex;
	align-items: center;
	gap: 10px;
	padding: 4px 4px 4px 14px;
	background: ${tone.ink};
	color: ${tone.plaster};
	border: ${line};
	border-left: 6px solid ${(p) => (p.$wrong ? tone.ochre : tone.verdigris)};
	border-radius: ${corner};
	box-shadow: 0 6px 20px rgb(0 0 0 / 0.25);
	span { flex: 1; padding: 6px 0; }
	button { min-height: ${target}; min-width: ${target}; background: none; border: 0; color: inherit; font: inherit; text-decoration: underline; cursor: pointer; padding: 0 10px; }
`;

function Slip({ notice }: { notice: Notice }) {
	useEffect(() => {
		if (notice.wrong) return;
		const timer = setTimeout(() => set(notices.filter((n) => n.id !== notice.id)), 6000);
		return () => clearTimeout(timer);
	}, [notice]);
	return (
		<Paper $wrong={notice.wrong} role={notice.wrong ? "alert" : "status"}>
			<span>{notice.text}</span>
			{notice.action && (
				<Button
					onPress={() => {
						notice.action?.run();
						set(notices.filter((n) => n.id !== notice.id));
					}}
				>
					{notice.action.name}
				</Button>
			)}
			<Button aria-label="Put this message away" onPress={() => set(notices.filter((n) => n.id !== notice.id))}>
				✕
			</Button>
		</Paper>
	);
}

export function Notices() {
	const list = useSyncExternalStore(
		(l) => {
			listeners.add(l);
			return () => listeners.delete(l);
		},
		() => notices,
	);
	return (
		<Place aria-live="polite">
			{list.map((n) => (
				<Slip key={n.id} notice={n} />
			))}
		</Place>
	);
}
