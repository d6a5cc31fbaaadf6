// One typed client. A change of the server's description that the page does not follow fails the build.
import createClient from "openapi-fetch";
import { v7 as uuid } from "uuid";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type ApiError = Schemas["ApiError"];

export const api = createClient<paths>({ baseUrl: "/api" });

/** A fault as the server words it. */
export class Fault extends Error {
	readonly code: string;
	readonly field: string | undefined;
	readonly theirs: Schemas["Stored"] | undefined;
	constructor(error: Partial<ApiError> | undefined) {
		super(error?.message ?? "The server cannot be reached. What you typed is still here; try again.");
		this.code = error?.code ?? "unreachable";
		this.field = error?.field ?? undefined;
		this.theirs = error?.theirs ?? undefined;
	}
}

/** The data of an answer, or the fault. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
	const result = await call.catch(() => {
		throw new Fault(undefined);
	});
	if (result.data === undefined) throw new Fault(result.error as ApiError | undefined);
	return result.data;
}

/** An id for something new. */
export const newId = () => uuid();

/** The header that lets a change be sent again without being applied again. */
export const change = (id: string = uuid()) => ({ header: { "idempotency-key": id } });

/** Sends bytes as they are. */
export async function sendBytes<T>(path: string, body: Blob): Promise<T> {
	const response = await fetch(`/api${path}`, {
		method: "POST",
		headers: { "idempotency-key": uuid(), "content-type": "application/octet-stream" },
		body,
	}).catch(() => {
		throw new Fault(undefined);
	});
	const json = (await response.json().catch(() => undefined)) as unknown;
	if (!response.ok) throw new Fault(json as ApiError);
	return json as T;
}
