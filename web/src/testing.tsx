// For tests of pages: a server that answers from a table, and a page around what is tested.
import { QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { createMemoryRouter, Outlet, RouterProvider } from "react-router";
import { vi } from "vitest";
import { queryClient } from "./api/queries";
import { WhereProvider } from "./app/where";
import { Notices } from "./design/Notices";

export const JOB = "0190aaaa-0000-7000-8000-00000000000a";

type Answers = Record<string, (body: unknown, request: Request) => unknown>;
export interface Sent {
	to: string;
	body: unknown;
	key: string | null;
}

export const json = (body: unknown, status = 200) =>
	new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });

/** Which answer of the table is meant; `*` stands for a part of the path that the page makes up, as the id of something new. */
const meant = (answers: Answers, to: string) =>
	answers[to] ??
	Object.entries(answers).find(([route]) => {
		const [parts, asked] = [route.split("/"), to.split("/")];
		return parts.length === asked.length && parts.every((part, i) => part === "*" || part === asked[i]);
	})?.[1];

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
		const answer = meant(answers, to);
		if (!answer) throw new TypeError("not reached");
		const got = await answer(body, input);
		return got instanceof Response ? got : json(got);
	});
	return sent;
}

export type Person = ReturnType<typeof person>;

/**
 * Someone at the page. Plain text comes in one go, as pasted: after each letter the whole page would be drawn again, which was most of
 * the time the tests took. Keys of their own, `{Enter}`, are pressed.
 */
export function person(how: Parameters<typeof userEvent.setup>[0] = {}) {
	const user = userEvent.setup({ delay: null, ...how });
	const type: typeof user.type = async (field, text, more) => {
		if (/[{[]/.test(text)) return user.type(field, text, more);
		await user.click(field);
		await user.paste(text);
	};
	return { ...user, type };
}

/** What is tested, inside what every page has; `outlet` is what the shell hands to its benches, metric if nothing else is said. */
export function show(what: ReactNode, { at = `/jobs/${JOB}`, path = "/jobs/:job", outlet = {} as object } = {}) {
	const inside = (
		<WhereProvider>
			<Outlet context={{ units: "metric", ...outlet }} />
		</WhereProvider>
	);
	const routes = [{ element: inside, children: [{ path, element: what }] }];
	return render(
		<QueryClientProvider client={queryClient}>
			<Notices />
			<RouterProvider router={createMemoryRouter(routes, { initialEntries: [at] })} />
		</QueryClientProvider>,
	);
}

/** The test page lays nothing out: drawings are said to be shown so many times their size, so far from the window's corner. */
export function layOut(times = 1, [left, top] = [0, 0]) {
	type Turn = (x: number, y: number) => { x: number; y: number };
	vi.stubGlobal(
		"DOMPoint",
		class {
			constructor(
				readonly x: number,
				readonly y: number,
			) {}
			matrixTransform = (turn: Turn) => turn(this.x, this.y);
		},
	);
	const turn: Turn = (x, y) => ({ x: (x - left) / times, y: (y - top) / times });
	Object.assign(SVGElement.prototype, { getScreenCTM: () => ({ inverse: () => turn }) });
}
