// Sets up what jsdom lacks, and clears the page after each test.
import "../testing";
import { act, render, screen, within } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import { person } from "../testing";
import { Notices, say } from "./Notices";

const said = () => screen.queryAllByRole("alertdialog").map((n) => n.textContent ?? "");

test("a fault is said at once and stays until it is put away; what is said again is said once", async () => {
	const user = person();
	render(<Notices />);
	act(() => say("The page is not reached.", { wrong: true }));
	act(() => say("The page is not reached.", { wrong: true }));
	expect(said()).toHaveLength(1);
	expect(screen.getByRole("alert").textContent).toBe("The page is not reached.");
	await user.click(screen.getByRole("button", { name: "Put this message away" }));
	expect(said()).toHaveLength(0);
});

test("a message of something done waits its turn, and goes by itself", async () => {
	vi.useFakeTimers();
	try {
		render(<Notices />);
		act(() => say("The note is kept."));
		expect(screen.getByRole("status").textContent).toBe("The note is kept.");
		expect(screen.queryByRole("alert")).toBeNull();
		await act(() => vi.advanceTimersByTimeAsync(5900));
		expect(said()).toHaveLength(1);
		await act(() => vi.advanceTimersByTimeAsync(200));
		expect(said()).toHaveLength(0);
	} finally {
		vi.useRealTimers();
	}
});

test("what a message offers is done once, and then it is gone", async () => {
	const user = person();
	const run = vi.fn();
	render(<Notices />);
	act(() => say("G3 is taken away.", { action: { name: "Put it back", run } }));
	const message = screen.getByRole("alertdialog");
	await user.click(within(message).getByRole("button", { name: "Put it back" }));
	expect(run).toHaveBeenCalledTimes(1);
	expect(said()).toHaveLength(0);
});

test("no more than three are shown, the newest first; the rest wait until one is put away", async () => {
	const user = person();
	render(<Notices />);
	act(() => {
		for (const text of ["one", "two", "three", "four"]) say(text, { wrong: true });
	});
	const texts = () => screen.getAllByRole("alert").map((n) => n.textContent);
	expect(texts()).toEqual(["four", "three", "two"]);
	await user.click(screen.getAllByRole("button", { name: "Put this message away" })[0] as HTMLElement);
	expect(texts()).toEqual(["three", "two", "one"]);
});
