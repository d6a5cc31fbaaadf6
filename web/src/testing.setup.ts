// Runs before every file of tests: they share one page, so each leaves it as it found it.
import { cleanup, configure } from "@testing-library/react";
import * as React from "react";
import { afterEach, expect, vi } from "vitest";
import { queryClient } from "./api/queries";
import { reached } from "./api/reach";
import { putAllAway } from "./design/Notices";
import { forgetAll } from "./parts/draft/keeper";
import { styleOf } from "./testing.styles";

// A machine with other work on it is slow, not wrong.
configure({ asyncUtilTimeout: 15_000 });

// What is asked again is asked again at once.
const usual = queryClient.getDefaultOptions();
queryClient.setDefaultOptions({ ...usual, queries: { ...usual.queries, retryDelay: 1 } });

window.getComputedStyle = styleOf;

// React notes for each element where it was made, for its warnings: as often as it takes turns, as if it had done so often enough.
const inner = Object.entries(React).find(([name]) => name.startsWith("__CLIENT_INTERNALS"))?.[1];
if (inner)
	Object.defineProperty(inner, "recentlyCreatedOwnerStacks", { get: () => Number.MAX_SAFE_INTEGER, set: () => undefined });

// The test page has no styles, and what a grid asks of them when it is focused.
globalThis.CSS ??= { escape: (text: string) => text.replace(/["\\]/g, "\\$&") } as typeof CSS;

afterEach(() => {
	cleanup();
	putAllAway();
	forgetAll();
	reached();
	// What is under way would go on into the next test, and be answered there.
	const open = queryClient
		.getMutationCache()
		.getAll()
		.filter((m) => m.state.status === "pending");
	queryClient.clear();
	vi.unstubAllGlobals();
	vi.useRealTimers();
	localStorage.clear();
	Reflect.deleteProperty(SVGElement.prototype, "getScreenCTM");
	expect(open.map((m) => m.options.mutationKey)).toEqual([]);
});
