import { cleanup, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import type { JobView } from "../../api/queries";
import { WhereProvider } from "../../app/where";
import { JOB, json, person, serve, show } from "../../testing";
import { standing } from "../draft/keeper";
import { NoteLine } from "./NoteLine";

const NOTE = "0190aaaa-0000-7000-8000-0000000000aa";
const view = {
	job: { id: JOB, body: { brief: {} } },
	practice: { own_word: [] },
	notes: [],
	findings: [],
	pictures: [],
} as unknown as JobView;
const reading = { notes: [], fragments: [], again: false, doubts: [] };
const place = (zone: string) => ({ face: "left", zone });
const kept = (zone: string, more = {}) => ({
	notes: [{ id: NOTE, rev: 3, body: { text: "no weep holes", kind: "defect", place: place(zone) } }],
	...more,
});
const elsewhere = [{ note: 0, set: place("roof"), words: "“No weeps” is not met at left, roof: kept at left, base." }];

function line(answer: (body: unknown) => unknown) {
	const sent = serve({
		"POST /calc/note": () => reading,
		"GET /choices": () => ({ conditions: [], components: [] }),
		[`POST /jobs/${JOB}/lines`]: answer,
		[`PUT /jobs/${JOB}/notes/${NOTE}`]: (b) => ({ id: NOTE, rev: 4, body: (b as { body: unknown }).body }),
	});
	show(
		<WhereProvider>
			<NoteLine view={view} />
		</WhereProvider>,
	);
	return sent;
}
const put = (sent: ReturnType<typeof line>) => sent.filter((s) => s.to.startsWith("PUT"));

it("what went to another height says so, and Escape on the empty line puts it back on its own revision", async () => {
	const user = person();
	const sent = line(() => kept("base", { elsewhere }));
	const field = screen.getByRole("textbox", { name: "Note line" });
	await user.type(field, "no weep holes{Enter}");
	expect(await screen.findByText(/kept at left, base/)).toBeTruthy();
	// While the next line is being typed, Escape is not taken for it.
	await user.type(field, "next{Escape}");
	expect(put(sent)).toEqual([]);
	await user.clear(field);
	await user.type(field, "{Escape}");
	await waitFor(() => expect(put(sent).length).toBe(1));
	expect(put(sent)[0]?.body).toMatchObject({ base: 3, body: { text: "no weep holes", place: place("roof") } });
	await waitFor(() => expect(screen.queryByText(/kept at left, base/)).toBeNull());
});

it("a line that stays where it was offers nothing to put back", async () => {
	const user = person();
	const sent = line(() => kept("roof"));
	const field = screen.getByRole("textbox", { name: "Note line" });
	await user.type(field, "moss{Enter}");
	await waitFor(() => expect(sent.some((s) => s.to.endsWith("/lines"))).toBe(true));
	await user.type(field, "{Escape}");
	expect(put(sent)).toEqual([]);
	expect(screen.queryByRole("button", { name: /Put it back/ })).toBeNull();
});

it("a line that is refused waits beside the line and comes back by one press", async () => {
	const user = person();
	const sent = line(() => json({ code: "invalid", message: "This cannot be kept.", field: "line" }, 422));
	const field = screen.getByRole("textbox", { name: "Note line" }) as HTMLTextAreaElement;
	await user.type(field, "gutter bent{Enter}");
	expect(field.value).toBe("");
	await user.click(await screen.findByRole("button", { name: "Put it back on the line" }));
	expect(field.value).toBe("gutter bent");
	expect(new Set(sent.filter((s) => s.to.endsWith("/lines")).map((s) => s.key)).size).toBe(1);
});

it("what is on the line, and what was refused, are there again when the job is come back to", async () => {
	const user = person();
	const refuse = () => json({ code: "invalid", message: "That is too long." }, 422);
	line(refuse);
	const field = () => screen.getByRole<HTMLTextAreaElement>("textbox", { name: "Note line" });
	await user.type(field(), "gutter sags{Enter}");
	expect(await screen.findByText("Not kept: “gutter sags”")).toBeTruthy();
	// The same again is refused again, and each comes back by itself.
	await user.type(field(), "gutter sags{Enter}");
	await waitFor(() => expect(screen.getAllByText("Not kept: “gutter sags”")).toHaveLength(2));
	await user.type(field(), "boot is spl");
	cleanup();
	line(refuse);
	expect(field().value).toBe("boot is spl");
	// Nobody leaves the page with it unasked.
	expect(standing()).toBe("typed");
	await user.click(screen.getAllByRole("button", { name: "Put it back on the line" })[0] as HTMLElement);
	expect(field().value).toBe("boot is spl gutter sags");
	expect(screen.getAllByText("Not kept: “gutter sags”")).toHaveLength(1);
});
