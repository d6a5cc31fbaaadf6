// One typed client. A change of the server's description that the page does not follow fails the build.
import createClient from "openapi-fetch";
import createQueries from "openapi-react-query";
import { v4, v7 } from "uuid";
import { reached, unreached } from "./reach";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type ApiError = Schemas["ApiError"];

/** A fault as the server words it, or that it could not be reached. */
export class Fault extends Error {
	readonly code: string;
	readonly field: string | undefined;
	readonly theirs: Schemas["Stored"] | undefined;
	constructor(error: Partial<ApiError> | undefined) {
		super(error?.message ?? "The server is not reached. What was typed stays here and is kept when it is back.");
		this.code = error?.code ?? "unreachable";
		this.field = error?.field ?? undefined;
		this.theirs = error?.theirs ?? undefined;
	}
}

export const api = createClient<paths>({
	baseUrl: `${globalThis.location.origin}/api`,
	fetch: (request) => globalThis.fetch(request),
});
api.use({
	onResponse: () => {
		reached();
	},
	onError: ({ error }) => {
		// A question that was given up by the page itself says nothing about the server.
		if (error instanceof DOMException && error.name === "AbortError") return error;
		unreached();
		return new Fault(undefined);
	},
});
/** Queries made from the description: key, types, and giving up what is no longer asked. */
export const queries = createQueries(api);

/** The data of an answer, or the fault. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
	const result = await call;
	if (result.data === undefined) throw new Fault((result.error as Partial<ApiError> | undefined) ?? { code: "internal" });
	return result.data;
}

/** An id for something new. Made here: `crypto.randomUUID` is missing where a page comes over plain HTTP in a local network. */
export const newId = () => v7();
/** A key for a change: one for each action, kept for its retries. */
export const newKey = () => v4();
/** The header that lets a change be sent again without being applied again. */
export const under = (key: string) => ({ header: { "idempotency-key": key } });

/** Sends bytes as they are. */
export async function sendBytes<T>(path: string, body: Blob, key: string): Promise<T> {
	const response = await fetch(`/api${path}`, {
		method: "POST",
		headers: { "idempotency-key": key, "content-type": "application/octet-stream" },
		body,
	}).catch(() => {
		unreached();
		throw new Fault(undefined);
	});
	reached();
	const json = (await response.json().catch(() => undefined)) as unknown;
	if (!response.ok) throw new Fault((json as Partial<ApiError> | undefined) ?? { code: "internal" });
	return json as T;
}
