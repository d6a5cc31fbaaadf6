// Whether the server is reached: known from every answer, and asked for while it is not.
import { useSyncExternalStore } from "react";

/** Pause between two looks while it is not reached, milliseconds. */
const LOOK = 2000;

let isReached = true;
let timer: ReturnType<typeof setInterval> | undefined;
const listeners = new Set<() => void>();
const returned = new Set<() => void>();

function set(next: boolean) {
	if (next === isReached) return;
	isReached = next;
	for (const l of listeners) l();
	if (next) for (const r of returned) r();
}

/** An answer came, whatever it said. */
export function reached() {
	clearInterval(timer);
	timer = undefined;
	set(true);
}

/** No answer came. */
export function unreached() {
	set(false);
	timer ??= setInterval(() => void fetch("/api/health").then(reached, () => undefined), LOOK);
}

/** Does something whenever the server is back. */
export function whenBack(what: () => void) {
	returned.add(what);
	return () => {
		returned.delete(what);
	};
}

export const useReached = () =>
	useSyncExternalStore(
		(l) => {
			listeners.add(l);
			return () => listeners.delete(l);
		},
		() => isReached,
	);
