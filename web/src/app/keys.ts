// Single keys. None fires while something is typed; all can be turned off.
import { useEffect, useRef } from "react";

const OFF = "trowel-keys-off";

export const keysOff = () => localStorage.getItem(OFF) === "yes";
export const setKeysOff = (off: boolean) => localStorage.setItem(OFF, off ? "yes" : "no");

const typing = (t: EventTarget | null) =>
	t instanceof HTMLElement &&
	(t.isContentEditable || t.closest("input, textarea, select, [role=listbox], [role=menu], [role=dialog]") !== null);

/** Runs an action for a key: "n", "alt+1". */
export function useKeys(actions: Record<string, () => void>) {
	const latest = useRef(actions);
	latest.current = actions;
	useEffect(() => {
		const listen = (e: KeyboardEvent) => {
			if (e.defaultPrevented || e.ctrlKey || e.metaKey || keysOff() || typing(e.target)) return;
			const action = latest.current[(e.altKey ? "alt+" : "") + e.key.toLowerCase()];
			if (action) {
				e.preventDefault();
				action();
			}
		};
		window.addEventListener("keydown", listen);
		return () => window.removeEventListener("keydown", listen);
	}, []);
}

export const KEYS: [string, string][] = [
	["N", "Go to the note line"],
	["[ and ]", "Walk to the previous or next face"],
	["- and =", "One zone down or up"],
	["S", "Seen, nothing to note, at the place that is set"],
	["P", "Attach a picture"],
	["U and R", "Undo, and do it again"],
	["Alt+1, 2, 3 …", "The benches, in their order"],
	["?", "Show these keys"],
];
