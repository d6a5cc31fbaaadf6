// What stays when the page moves on to another bench and comes back, although it is no value that could be kept.
import { useState, useSyncExternalStore } from "react";
import { halfTyped, stay, stayed, typeHalf, watch } from "./keeper";
import { merge, same } from "./merge";

type Change<T> = T | ((now: T) => T);
const changed = <T>(change: Change<T>, now: T): T => (typeof change === "function" ? (change as (now: T) => T)(now) : change);

/** Text that is typed towards something: a question before it is asked, a table before it is read. The strip says that it is not kept. */
export function useHalf(name: string): [string, (text: Change<string>) => void] {
	const text = useSyncExternalStore(watch, () => halfTyped(name) ?? "");
	return [text, (change) => typeHalf(name, changed(change, halfTyped(name) ?? "") || null)];
}

/**
 * Like a state, but found again under its name: the middle of a longer piece of work. While `unfinished` says that it would be missed,
 * the strip says that it is not kept, and leaving the page is asked about.
 */
export function useStay<T>(
	name: string,
	first: T,
	unfinished?: (value: T) => boolean,
	/** The beginning of the pages it is in sight on, where that is more than one. */
	at?: string,
): [T, (value: Change<T>) => void] {
	const [begin] = useState(first);
	// Nothing that was chosen is a choice as well.
	const now = () => {
		const there = stayed<T>(name);
		return there === undefined ? begin : there;
	};
	const write = (change: Change<T>) => {
		const next = changed(change, now());
		stay(name, next, unfinished?.(next), at);
	};
	return [useSyncExternalStore(watch, now), write];
}

/**
 * A change that is tried beside what is kept, and stays while another bench is looked at. What is kept meanwhile is in it as well, so that
 * to keep the trial takes back nothing but what it changes.
 */
export function useTrial<T>(name: string, kept: T): [T | null, (now: T | null) => void] {
	const [trial, setTrial] = useStay<{ from: T; now: T } | null>(
		name,
		null,
		(trial) => trial !== null && !same(trial.from, trial.now),
	);
	return [trial && merge(trial.from, trial.now, kept).merged, (now) => setTrial(now && { from: kept, now })];
}
