import { act, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import "../testing";
import { reached, unreached, useReached, whenBack } from "./reach";

const Shown = () => <p>{useReached() ? "reached" : "not reached"}</p>;
const shown = () => screen.getByText(/reached/).textContent;

beforeEach(() => {
	vi.useFakeTimers();
});
afterEach(() => {
	vi.useRealTimers();
});

test("while the server is away it is asked for, once at a time, and what waits goes on when it is back", async () => {
	let away = true;
	const asked = vi.fn(async () => {
		if (away) throw new TypeError("not reached");
		return new Response("{}");
	});
	vi.stubGlobal("fetch", asked);
	const back = vi.fn();
	whenBack(back);
	render(<Shown />);
	act(() => {
		unreached();
		// A second failed request starts no second watch.
		unreached();
	});
	expect(shown()).toBe("not reached");
	await act(() => vi.advanceTimersByTimeAsync(6100));
	expect(asked).toHaveBeenCalledTimes(3);
	expect(asked).toHaveBeenCalledWith("/api/health");
	expect(shown()).toBe("not reached");
	expect(back).not.toHaveBeenCalled();
	away = false;
	await act(() => vi.advanceTimersByTimeAsync(2000));
	expect(shown()).toBe("reached");
	expect(back).toHaveBeenCalledTimes(1);
	// It is left alone from then on.
	await act(() => vi.advanceTimersByTimeAsync(20_000));
	expect(asked).toHaveBeenCalledTimes(4);
});

test("any answer says that it is back, a second one says nothing new, and who went away is not called", () => {
	vi.stubGlobal("fetch", async () => {
		throw new TypeError("not reached");
	});
	const [waits, left] = [vi.fn(), vi.fn()];
	whenBack(waits);
	const leave = whenBack(left);
	unreached();
	leave();
	reached();
	reached();
	expect(waits).toHaveBeenCalledTimes(1);
	expect(left).not.toHaveBeenCalled();
});
