import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { JOB, json, person, serve, show } from "../../testing";
import { Preview } from "./Preview";

type Props = Parameters<typeof Preview>[0];
const trades = [{ name: "Roofer", findings: 3 }];
/** Says which pages are in sight now; the test page shows none. */
let sight = (_: { [page: number]: boolean }) => {};
function opened(units = "metric") {
	vi.stubGlobal(
		"IntersectionObserver",
		class {
			constructor(tell: (all: object[]) => void) {
				sight = (pages) =>
					act(() =>
						tell(Object.entries(pages).map(([page, isIntersecting]) => ({ target: { dataset: { page } }, isIntersecting }))),
					);
			}
			observe() {}
			disconnect() {}
		},
	);
	show(<Preview {...({ view: { job: { id: JOB }, units, version: "7.1" }, trades } as unknown as Props)} />);
}
const REPORT = `GET /jobs/${JOB}/report`;
const pages = () => screen.queryAllByRole<HTMLImageElement>("img");

it("pages come one after the other, so that what is kept meanwhile never waits behind them; a page that fails stops nothing", async () => {
	serve({ [REPORT]: () => ({ pages: 9, version: "v1", warnings: ["One picture is missing."] }) });
	opened();
	await waitFor(() => expect(pages()).toHaveLength(1));
	expect(pages()[0]?.getAttribute("src")).toContain(`/api/jobs/${JOB}/report/pages/1?`);
	expect(screen.getByText("As it will print: 9 pages")).toBeTruthy();
	expect(screen.getByText("One picture is missing.")).toBeTruthy();
	// The next one in sight follows when the first is there; what is out of sight waits.
	sight({ 2: true });
	expect(pages()).toHaveLength(1);
	fireEvent.load(pages()[0] as HTMLElement);
	expect(pages()).toHaveLength(2);
	fireEvent.error(pages()[1] as HTMLElement);
	expect(pages().map((p) => p.alt.slice(0, 6))).toEqual(["Page 1", "Page 2"]);
	// Far down at once: what was skipped is not waited for.
	sight({ 1: false, 2: false, 5: true });
	expect(pages().map((p) => p.alt.slice(0, 6))).toEqual(["Page 1", "Page 2", "Page 5"]);
	// Out of sight before it came: it is not waited for either, and nothing asks for it any more.
	sight({ 5: false, 7: true });
	expect(pages().map((p) => p.alt.slice(0, 6))).toEqual(["Page 1", "Page 2", "Page 7"]);
});

it("another cut and another sheet are asked for with their own pages, from the first", async () => {
	const user = person();
	const asked: string[] = [];
	serve({
		[REPORT]: (_, request) => {
			asked.push(new URL(request.url).searchParams.toString());
			return { pages: 2, version: "v1", warnings: [] };
		},
	});
	opened("us");
	await waitFor(() => expect(pages()).toHaveLength(1));
	expect(asked[0]).toContain("paper=letter");
	sight({ 2: true });
	fireEvent.load(pages()[0] as HTMLElement);
	expect(pages()).toHaveLength(2);
	await user.click(screen.getByRole("button", { name: /For whom/ }));
	await user.click(await screen.findByRole("option", { name: "Work list: roofer (3)" }));
	await waitFor(() => expect(pages().map((p) => p.src.includes("trade=Roofer"))).toEqual([true]));
	expect(screen.getByRole<HTMLAnchorElement>("link", { name: "Download PDF" }).href).toContain("cut=trade");
});

it("a report that cannot be set says why, and asks for no page", async () => {
	serve({ [REPORT]: () => json({ code: "invalid", message: "A picture of it cannot be read." }, 422) });
	opened();
	expect(await screen.findByText("A picture of it cannot be read.")).toBeTruthy();
	expect(screen.getByText("The report could not be set.")).toBeTruthy();
	expect(pages()).toEqual([]);
});
