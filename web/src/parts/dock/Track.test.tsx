import { screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobView } from "../../api/queries";
import { useWhere, WhereProvider } from "../../app/where";
import { JOB, person, serve, show } from "../../testing";
import { Track } from "./Track";

function Wheel() {
	const where = useWhere();
	return (
		<button type="button" onClick={() => where.walk(1)}>
			Next face
		</button>
	);
}

function walk(track: object[]) {
	// A key is made once for each action, and names the place that is kept.
	const sent = serve({});
	const kept: { at: string; place: unknown }[] = [];
	const fetched = globalThis.fetch;
	globalThis.fetch = (async (input: Request) => {
		if (input.method !== "PUT") return fetched(input);
		const { body } = (await input.json()) as { body: { at: string; place: unknown } };
		kept.push(body);
		return new Response(JSON.stringify({ id: "s", rev: 1, body }), { headers: { "content-type": "application/json" } });
	}) as typeof fetch;
	const view = { job: { id: JOB, body: {} }, track } as unknown as JobView;
	show(
		<WhereProvider>
			<Track view={view} />
			<Wheel />
		</WhereProvider>,
	);
	return { sent, kept };
}

it("places are kept from when it is pressed to when it is over, and not before or after", async () => {
	const user = person();
	const { kept } = walk([]);
	const next = screen.getByRole("button", { name: "Next face" });
	await user.click(next);
	await user.click(screen.getByRole("button", { name: "I am recording elsewhere" }));
	await user.click(next);
	await user.click(next);
	await user.click(screen.getByRole("button", { name: "The recording is over" }));
	await user.click(next);
	await waitFor(() => expect(kept).toHaveLength(4));
	expect(kept.map((k) => (k.place as { face?: string } | null)?.face ?? null)).toEqual(["left", "rear", "right", null]);
	const times = kept.map((k) => Date.parse(k.at));
	expect([...times].sort((a, b) => a - b)).toEqual(times);
});

it("a recording that goes on is seen after the page was left", async () => {
	const user = person();
	const { kept } = walk([{ began: "2026-11-20T10:00:00Z", ended: null, places: 3 }]);
	expect(screen.getByRole("status").textContent).toContain("3 so far");
	await user.click(screen.getByRole("button", { name: "Next face" }));
	await waitFor(() => expect(kept).toHaveLength(1));
});
