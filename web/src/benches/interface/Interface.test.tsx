import { screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { json, person, show } from "../../testing";
import { Interface } from "./Interface";

const operation = (summary: string) => ({ get: { summary, parameters: [], responses: {} } });
const described = {
	info: { title: "Trowel", version: "1", description: "Everything the page does." },
	paths: { "/jobs": operation("Every job."), "/buildings": operation("Every building.") },
	components: { schemas: { Job: { type: "object" } } },
};
const open = () => show(<Interface />, { at: "/interface", path: "/interface" });

it("routes are found by their path or by what they do", async () => {
	vi.stubGlobal("fetch", async () => json(described));
	open();
	expect(await screen.findByText("Everything the page does.")).toBeTruthy();
	await person().type(screen.getByLabelText("Find"), "BUILDING");
	expect(screen.queryByText("/api/jobs")).toBeNull();
	expect(screen.getByText("/api/buildings")).toBeTruthy();
});

it("a server that cannot describe itself says what to do, and is asked again", async () => {
	let fails = true;
	vi.stubGlobal("fetch", async () => (fails ? json({ code: "internal", message: "x" }, 500) : json(described)));
	open();
	expect((await screen.findByRole("alert")).textContent).toContain("Ask again, or start it again.");
	fails = false;
	await person().click(screen.getByRole("button", { name: "Ask again" }));
	expect(await screen.findByText("/api/jobs")).toBeTruthy();
});
