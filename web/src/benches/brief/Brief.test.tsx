import { screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import type { JobView } from "../../api/queries";
import { standing } from "../../parts/draft/keeper";
import { JOB, json, person, serve, show } from "../../testing";
import { Brief } from "./Brief";

type Job = Schemas["Job"];

const choices = {
	visits: [
		{ value: "condition", name: "Condition" },
		{ value: "storm", name: "Storm damage" },
	],
	units: [{ value: "us", name: "Feet and inches" }],
};

/** The page with one brief, and a server that keeps what it is sent unless it is told to answer otherwise. */
function opened(brief: object, answer?: (body: Job) => Response | undefined) {
	let rev = 1;
	const sent = serve({
		"GET /choices": () => choices,
		[`GET /jobs/${JOB}/building`]: () => ({ building: null, same_address: [] }),
		[`PUT /jobs/${JOB}`]: (put) => {
			const { body } = put as { body: Job };
			rev += 1;
			return answer?.(body) ?? { id: JOB, rev, body };
		},
	});
	const outlet = { job: { id: JOB, rev, body: { name: "Heron", brief } }, asks: "Why are we here?" } as unknown as JobView;
	const page = show(<Brief />, { outlet });
	const briefs = () => sent.filter((s) => s.to.startsWith("PUT")).map((s) => (s.body as { body: Job }).body.brief);
	return { briefs, last: () => briefs().at(-1), leave: () => page.unmount(), again: () => show(<Brief />, { outlet }) };
}

const field = (name: string) => screen.findByRole<HTMLInputElement>("textbox", { name });

it("a direction is kept when it is one; what is not is asked about and not sent with the next save", async () => {
	const user = person();
	const { last } = opened({});
	const rain = await field("Driving rain comes from");
	await user.type(rain, "ssw");
	await waitFor(() => expect(last()?.driving_rain_from).toBe(202.5));
	expect(rain.getAttribute("aria-invalid")).toBeNull();
	await user.clear(rain);
	await user.type(rain, "20 E of S");
	expect(rain.value).toBe("20 E of S");
	expect(rain.getAttribute("aria-invalid")).toBe("true");
	await user.type(await field("Year built"), "1967");
	await user.tab();
	await waitFor(() => expect(last()?.year_built).toBe(1967));
	expect(last()?.driving_rain_from).toBeNull();
});

it("what the server says of a year stands at the year as a fault, and the year stays as it was typed", async () => {
	const user = person();
	const refuse = (job: Job) =>
		job.brief?.year_built === 67
			? json({ code: "invalid", message: "67 is not a year of building. Type a year such as 1967.", field: "year_built" }, 422)
			: undefined;
	const { last } = opened({}, refuse);
	const year = await field("Year built");
	await user.type(year, "67");
	await waitFor(() => expect(year.getAttribute("aria-invalid")).toBe("true"));
	expect(screen.getByText("67 is not a year of building. Type a year such as 1967.")).toBeTruthy();
	expect(year.value).toBe("67");
	await user.clear(year);
	await user.type(year, "1967");
	await waitFor(() => expect(last()?.year_built).toBe(1967));
	await waitFor(() => expect(year.getAttribute("aria-invalid")).toBeNull());
});

it("parts are added, named and taken out one by one; their neighbours keep what they hold", async () => {
	const user = person();
	const { last } = opened({
		walls: [
			{ part: "main", material: "brick" },
			{ part: "lean-to", material: "boards" },
		],
	});
	await screen.findByDisplayValue("boards");
	await user.click(screen.getAllByRole("button", { name: "Add a part" })[0] as HTMLElement);
	const parts = screen.getAllByRole<HTMLInputElement>("textbox", { name: "Part" });
	expect(parts.map((p) => p.value)).toEqual(["main", "lean-to", ""]);
	await user.type(parts[2] as HTMLElement, "porch");
	await user.click(screen.getByRole("button", { name: "Take out main" }));
	await waitFor(() =>
		expect(last()?.walls).toEqual([
			{ part: "lean-to", material: "boards" },
			{ part: "porch", material: "" },
		]),
	);
});

it("the units of the practice are no units of the job: choosing them again takes the job's own away", async () => {
	const user = person();
	const { last } = opened({ units: "us" });
	const button = await screen.findByRole("button", { name: /Units of the report/ });
	await waitFor(() => expect(within(button).getByText("Feet and inches")).toBeTruthy());
	await user.click(button);
	await user.click(await screen.findByRole("option", { name: "As the practice has it" }));
	await waitFor(() => expect(last()?.units).toBeNull());
});

it("two fields typed in one breath are both in what is kept", async () => {
	const user = person();
	const { last } = opened({ weather: "" });
	await user.type(await field("Weather"), "rain since dawn");
	await user.type(await field("Who receives the report"), "the owner");
	await user.click(await screen.findByRole("checkbox", { name: /Keep the location/ }));
	await waitFor(() => expect(last()).toMatchObject({ weather: "rain since dawn", recipient: "the owner", keep_location: true }));
});

it("what is half typed is there again when one comes back to the brief, and until then not everything is kept", async () => {
	const user = person();
	const { last, leave, again } = opened({ front_faces: 90 });
	const front = await field("Front faces");
	await user.clear(front);
	await user.type(front, "20 E of");
	expect(standing()).toBe("refused");
	leave();
	expect(standing()).toBe("refused");
	again();
	const there = await field("Front faces");
	expect(there.value).toBe("20 E of");
	expect(there.getAttribute("aria-invalid")).toBe("true");
	await user.clear(there);
	await user.type(there, "S");
	await waitFor(() => expect(last()?.front_faces).toBe(180));
	await waitFor(() => expect(standing()).toBe("kept"));
});
