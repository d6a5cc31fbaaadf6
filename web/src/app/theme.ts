// Daylight or attic, kept on this device.
import { useSyncExternalStore } from "react";

export type Theme = "daylight" | "attic";

const KEY = "trowel-theme";
const listeners = new Set<() => void>();
let theme: Theme = localStorage.getItem(KEY) === "attic" ? "attic" : "daylight";
document.documentElement.dataset.theme = theme;

export function setTheme(next: Theme) {
	theme = next;
	localStorage.setItem(KEY, next);
	document.documentElement.dataset.theme = next;
	for (const l of listeners) l();
}

export const useTheme = () =>
	useSyncExternalStore(
		(l) => {
			listeners.add(l);
			return () => listeners.delete(l);
		},
		() => theme,
	);
