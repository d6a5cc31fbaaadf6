import { act, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { reached, unreached } from "../api/reach";
import { Keeper, keeperOf, stay, typeHalf } from "../parts/draft/keeper";
import { show } from "../testing";
import { Standing, Unreached } from "./Standing";

const status = () => screen.getByRole("status").textContent;
/** Whether the browser would ask before the page is left. */
const asks = () => {
	const leaving = new Event("beforeunload", { cancelable: true });
	window.dispatchEvent(leaving);
	return leaving.defaultPrevented;
};
type Save = (base: number | null, body: string, key: string) => Promise<{ rev: number; body: string }>;
const draft = (name: string, save: Save) => keeperOf<string>(name, () => new Keeper({ value: "", rev: 1 }, save, () => "k"));

it("what is half typed is not kept, and leaving with it is asked about; put right it is not", () => {
	show(<Standing />);
	expect([status(), asks()]).toEqual(["All kept", false]);
	act(() => typeHalf("direction", "20 E of"));
	expect([status(), asks()]).toEqual(["Not kept: see the field", true]);
	act(() => typeHalf("direction", null));
	expect([status(), asks()]).toEqual(["All kept", false]);
});

it("what is in the middle of something is not kept yet, and leaving with it is asked about until it is done", () => {
	show(<Standing />);
	// What is only looked at is no work.
	act(() => stay("a place that is chosen", "front"));
	expect([status(), asks()]).toEqual(["All kept", false]);
	act(() => stay("a change that is tried", { width: "150 mm" }, true));
	expect([status(), asks()]).toEqual(["Not kept yet", true]);
	act(() => typeHalf("year", "19"));
	expect([status(), asks()]).toEqual(["Not kept: see the field", true]);
	act(() => typeHalf("year", null));
	act(() => stay("a change that is tried", null));
	expect([status(), asks()]).toEqual(["All kept", false]);
});

it("what is not kept and not in sight is led to: the bench of this job by its name, another job as one", () => {
	const page = show(<Standing />, { at: "/jobs/a/ground", path: "*" });
	const link = () => screen.queryByRole("link");
	const go = (to: string) => {
		page.unmount();
		return show(<Standing />, { at: to, path: "*" });
	};
	act(() => typeHalf("depth", "2 f"));
	expect(link()).toBeNull();
	let now = go("/jobs/a/roof");
	expect(status()).toBe("Not kept, on Ground");
	expect(link()?.getAttribute("href")).toBe("/jobs/a/ground");
	// What is typed here is in sight, as bad as it is.
	act(() => typeHalf("pitch", "6 o"));
	expect(status()).toBe("Not kept: see the field");
	act(() => typeHalf("pitch", null));
	expect(link()?.textContent).toBe("on Ground");
	now.unmount();
	now = show(<Standing />, { at: "/jobs/b/ground", path: "*" });
	expect(status()).toBe("Not kept, in another job");
	now.unmount();
	now = show(<Standing />, { at: "/jobs/a/ground", path: "*" });
	expect(link()).toBeNull();
	act(() => typeHalf("depth", null));
	// The note line is on every bench of its job.
	act(() => stay("note line", "crack", true, "/jobs/a"));
	expect([status(), link()]).toEqual(["Not kept yet", null]);
	now.unmount();
	now = show(<Standing />, { at: "/jobs/b/walk", path: "*" });
	expect(link()?.getAttribute("href")).toBe("/jobs/a");
	// What passes by itself leads nowhere.
	act(() => draft("d", () => new Promise(() => undefined)).keep("on its way"));
	expect([status(), link()]).toEqual(["Keeping…", null]);
	now.unmount();
});

it("the worst of all that is open is said: two versions before a wait, a wait before a refusal", async () => {
	const never: Save = () => new Promise(() => undefined);
	const away: Save = async () => Promise.reject({ code: "unreachable", message: "not reached" });
	const stale: Save = async () => Promise.reject({ code: "stale", message: "stale", theirs: { rev: 2, body: "theirs" } });
	show(<Standing />);
	act(() => draft("a", never).type("typed"));
	expect(status()).toBe("Not kept yet");
	act(() => draft("b", never).keep("on its way"));
	expect(status()).toBe("Keeping…");
	act(() => typeHalf("year", "19"));
	expect(status()).toBe("Not kept: see the field");
	await act(async () => draft("c", away).keep("waits"));
	await waitFor(() => expect(status()).toBe("Waiting for the server"));
	await act(async () => draft("d", stale).keep("mine"));
	await waitFor(() => expect(status()).toBe("Two versions: choose"));
});

it("while the server is away the page says so and stays; when it is back what waited is sent at once, the same request", async () => {
	vi.stubGlobal("fetch", async () => {
		throw new TypeError("not reached");
	});
	let here = false;
	const keys: string[] = [];
	const keeper = draft("brief", async (base, body, key) => {
		keys.push(`${base} ${body} ${key}`);
		if (!here) throw { code: "unreachable", message: "not reached" };
		return { rev: 2, body };
	});
	show(
		<>
			<Standing />
			<Unreached />
			<p>What was typed</p>
		</>,
	);
	expect(screen.queryByRole("alert")).toBeNull();
	act(() => unreached());
	await act(async () => keeper.keep("Is the jetty theirs?"));
	expect(screen.getByRole("alert").textContent).toContain("what you type stays here");
	expect(screen.getByText("What was typed")).toBeTruthy();
	await waitFor(() => expect(status()).toBe("Waiting for the server"));
	here = true;
	await act(async () => reached());
	await waitFor(() => expect(status()).toBe("All kept"));
	expect(screen.queryByRole("alert")).toBeNull();
	expect(keys.length).toBeGreaterThan(1);
	expect(new Set(keys)).toEqual(new Set(["1 Is the jetty theirs? k"]));
});
