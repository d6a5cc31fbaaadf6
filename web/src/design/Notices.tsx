// Short messages about what happened: said by a screen reader, gone by themselves or by a press.
import {
	Button,
	UNSTABLE_Toast as Toast,
	UNSTABLE_ToastContent as ToastContent,
	UNSTABLE_ToastQueue as ToastQueue,
	UNSTABLE_ToastRegion as ToastRegion,
} from "react-aria-components";
import styled from "styled-components";
import { at, corner, line, target, tone } from "./tokens";

interface Notice {
	text: string;
	wrong: boolean;
	action?: { name: string; run: () => void } | undefined;
}

/** A message that nothing follows from goes by itself, but not under a pointer or the focus. */
const STAYS_MS = 6000;
const queue = new ToastQueue<Notice>({ maxVisibleToasts: 3 });

/** Says something; faults stay until they are put away. What is said again is said once. */
export function say(text: string, options: { wrong?: boolean; action?: Notice["action"] } = {}) {
	for (const said of queue.visibleToasts.filter((n) => n.content.text === text)) queue.close(said.key);
	const wrong = options.wrong ?? false;
	queue.add({ text, wrong, action: options.action }, wrong ? {} : { timeout: STAYS_MS });
}

/** Puts every message away, those that wait for room too. */
export const putAllAway = () => queue.clear();

const Place = styled(
	ToastRegion<Notice>,
)`position: fixed; left: 50%; transform: translateX(-50%); bottom: 16px; display: grid; gap: 8px; width: min(560px, calc(100vw - 24px)); z-index: 40; ${at.phone} { bottom: 88px; }`;
const Paper = styled(Toast<Notice>)<{ $wrong: boolean }>`
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
	> div { flex: 1; padding: 6px 0; }
	&[data-focus-visible] { outline: 3px solid ${tone.copper}; }
	button { min-height: ${target}; min-width: ${target}; background: none; border: 0; color: inherit; font: inherit; text-decoration: underline; cursor: pointer; padding: 0 10px; }
`;

/** Where messages are said. */
export function Notices() {
	return (
		<Place queue={queue} aria-label="Messages">
			{({ toast }) => (
				<Paper toast={toast} $wrong={toast.content.wrong}>
					{/* A fault is said at once; the rest waits until the reader has done. */}
					<ToastContent role={toast.content.wrong ? "alert" : "status"}>{toast.content.text}</ToastContent>
					{toast.content.action && (
						<Button
							onPress={() => {
								toast.content.action?.run();
								queue.close(toast.key);
							}}
						>
							{toast.content.action.name}
						</Button>
					)}
					<Button slot="close" aria-label="Put this message away">
						✕
					</Button>
				</Paper>
			)}
		</Place>
	);
}
