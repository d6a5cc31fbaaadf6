// Sets up what jsdom lacks, and clears the page after each test.
import "../testing";
import { render, screen } from "@testing-library/react";
import { useState } from "react";
import { expect, test } from "vitest";
import { person } from "../testing";
import { TabBar } from "./TabBar";

function Walls() {
	const [part, setPart] = useState("laps");
	const tabs = [
		{ id: "matrix", name: "Before cladding" },
		{ id: "laps", name: "Laps" },
		{ id: "cracks", name: "Cracks" },
	];
	return (
		<TabBar label="Parts of the walls" tabs={tabs} chosen={part} onChoose={setPart}>
			<p>what {part} shows</p>
		</TabBar>
	);
}

const chosen = () => screen.getByRole("tab", { selected: true }).textContent;

test("the part that is shown is the one that is chosen, and says which it belongs to", async () => {
	const user = person();
	render(<Walls />);
	expect(screen.getByRole("tablist", { name: "Parts of the walls" })).toBeTruthy();
	expect(chosen()).toBe("Laps");
	expect(screen.getByRole("tabpanel", { name: "Laps" }).textContent).toBe("what laps shows");
	await user.click(screen.getByRole("tab", { name: "Cracks" }));
	expect(chosen()).toBe("Cracks");
	expect(screen.getByRole("tabpanel", { name: "Cracks" }).textContent).toBe("what cracks shows");
});

test("one stop for the keys: arrows go along the parts, the next press of Tab into what is shown", async () => {
	const user = person();
	render(<Walls />);
	await user.tab();
	expect(document.activeElement?.textContent).toBe("Laps");
	await user.keyboard("{ArrowRight}");
	expect(chosen()).toBe("Cracks");
	await user.keyboard("{ArrowRight}");
	expect(chosen()).toBe("Before cladding");
	await user.keyboard("{End}");
	expect(chosen()).toBe("Cracks");
	await user.tab();
	expect(document.activeElement?.getAttribute("role")).toBe("tabpanel");
});
