import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { JOB, json, person, serve, show } from "../../testing";
import { Preview } from "./Preview";

type Props = Parameters<typeof Preview>[0];
const trades = [{ name: "Roofer", findings: 3 }];
const opened = (units = "metric") =>
	show(<Preview {...({ view: { job: { id: JOB }, units, version: "7.1" }, trades } as unknown as Props)} />);
const REPORT = `GET /jobs/${JOB}/report`;
const pages = () => screen.queryAllByRole<HTMLImageElement>("img");

it("pages come one after the other, so that what is kept meanwhile never waits behind them; a page that fails stops nothing", async () => {
	serve({ [REPORT]: () => ({ pages: 3, version: "v1", warnings: ["One picture is missing."] }) });
	opened();
	await waitFor(() => expect(pages()).toHaveLength(1));
	expect(pages()[0]?.getAttribute("src")).toContain(`/api/jobs/${JOB}/report/pages/1?`);
	expect(screen.getByText("As it will print: 3 pages")).toBeTruthy();
	expect(screen.getByText("One picture is missing.")).toBeTruthy();
	fireEvent.load(pages()[0] as HTMLElement);
	expect(pages()).toHaveLength(2);
	fireEvent.error(pages()[1] as HTMLElement);
	expect(pages().map((p) => p.alt.slice(0, 6))).toEqual(["Page 1", "Page 2", "Page 3"]);
	fireEvent.load(pages()[2] as HTMLElement);
	expect(pages()).toHaveLength(3);
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
