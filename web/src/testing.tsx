// For tests of pages: a server that answers from a table, and a page around what is tested.
import { QueryClientProvider } from "@tanstack/react-query";
import { cleanup, configure, render } from "@testing-library/react";
import type { ReactNode } from "react";
import { createMemoryRouter, Outlet, RouterProvider } from "react-router";
import { afterEach, vi } from "vitest";
import { queryClient } from "./api/queries";
import { reached } from "./api/reach";
import { Notices } from "./design/Notices";
import { forgetAll } from "./parts/draft/keeper";

export const JOB = "0190aaaa-0000-7000-8000-00000000000a";

type Answers = Record<string, (body: unknown, request: Request) => unknown>;
export interface Sent {
	to: string;
	body: unknown;
	key: string | null;
}

export const json = (body: unknown, status = 200) =>
	new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });

/** Answers `"PUT /jobs/…"` by its function: with a value, or with a response of its own, at once or later. What is not in the table is not reached. */
export function serve(answers: Answers): Sent[] {
	const sent: Sent[] = [];
	vi.stubGlobal("fetch", async (asked: Request | string, init?: RequestInit) => {
		// Files are sent as they are: only where they go is of interest.
		const file = typeof asked === "string";
		const input = file ? new Request(new URL(asked, "http://localhost"), { ...init, body: "{}" }) : asked;
		const to = `${input.method} ${new URL(input.url).pathname.replace(/^\/api/, "")}`;
		const text = await input.clone().text();
		const body = text === "" ? undefined : JSON.parse(text);
		if (input.method !== "GET") sent.push({ to, body, key: input.headers.get("idempotency-key") });
		const answer = answers[to];
		if (!answer) throw new TypeError("not reached");
		const got = await answer(body, input);
		return got instanceof Response ? got : json(got);
	});
	return sent;
}

/** What is tested, inside what every page has; `outlet` is what the shell hands to its benches. */
export function show(what: ReactNode, { at = `/jobs/${JOB}`, path = "/jobs/:job", outlet = {} as unknown } = {}) {
	const routes = [{ element: <Outlet context={outlet} />, children: [{ path, element: what }] }];
	return render(
		<QueryClientProvider client={queryClient}>
			<Notices />
			<RouterProvider router={createMemoryRouter(routes, { initialEntries: [at] })} />
		</QueryClientProvider>,
	);
}

// A machine with other work on it is slow, not wrong.
configure({ asyncUtilTimeout: 15_000 });

// The test page has no styles, and what a grid asks of them when it is focused.
globalThis.CSS ??= { escape: (text: string) => text.replace(/["\\]/g, "\\$&") } as typeof CSS;

afterEach(() => {
	cleanup();
	forgetAll();
	reached();
	queryClient.clear();
	vi.unstubAllGlobals();
});
