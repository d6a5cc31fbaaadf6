import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Failure, Keeper } from "./keeper";

interface Brief {
	name: string;
	worries: string;
}

/** A server that answers when it is told to, and that applies a key once. */
function server(rev: number, body: Brief) {
	const state = { rev, body };
	const seen = new Map<string, { rev: number; body: Brief }>();
	const waiting: { resolve: () => void; lose: () => void; down: () => void }[] = [];
	const keys: string[] = [];
	const save = (base: number | null, sent: Brief, key: string) =>
		new Promise<{ rev: number; body: Brief }>((resolve, reject) => {
			keys.push(key);
			const apply = () => {
				const before = seen.get(key);
				if (before) return before;
				if (base !== state.rev) throw { code: "stale", message: "changed elsewhere", theirs: { ...state } } satisfies Failure;
				state.rev += 1;
				state.body = sent;
				const kept = { rev: state.rev, body: sent };
				seen.set(key, kept);
				return kept;
			};
			const unreachable: Failure = { code: "unreachable", message: "not reached" };
			waiting.push({
				resolve: () => {
					try {
						resolve(apply());
					} catch (e) {
						reject(e);
					}
				},
				lose: () => {
					apply();
					reject(unreachable);
				},
				down: () => reject(unreachable),
			});
		});
	const next = async (what: "resolve" | "lose" | "down" = "resolve") => {
		waiting.shift()?.[what]();
		await vi.advanceTimersByTimeAsync(0);
	};
	return { state, save, next, keys, waiting };
}

const made = (s: ReturnType<typeof server>) => {
	let n = 0;
	const newKey = () => {
		n += 1;
		return `key ${n}`;
	};
	return new Keeper<Brief>({ value: s.state.body, rev: s.state.rev }, s.save, newKey);
};

const START: Brief = { name: "Heron", worries: "" };

describe("what is typed, until it is kept", () => {
	beforeEach(() => {
		vi.useFakeTimers();
	});
	afterEach(() => {
		vi.useRealTimers();
	});

	it("is not overwritten by its own save, nor by the page that is asked anew after it", async () => {
		const s = server(1, START);
		const k = made(s);
		k.keep({ ...START, name: "Heron Boathouse" });
		k.later({ name: "Heron Boathouse", worries: "t" });
		await s.next();
		k.arrived({ value: s.state.body, rev: 2 });
		expect(k.read().draft).toEqual({ name: "Heron Boathouse", worries: "t" });
		expect(k.read().standing).toBe("typed");
		k.later({ name: "Heron Boathouse", worries: "the stain" });
		await vi.advanceTimersByTimeAsync(500);
		await s.next();
		expect(s.state.body).toEqual({ name: "Heron Boathouse", worries: "the stain" });
		expect(k.read().standing).toBe("kept");
	});

	it("says that it is kept only when it is", async () => {
		const s = server(1, START);
		const k = made(s);
		k.keep({ ...START, worries: "a" });
		expect(k.read().standing).toBe("saving");
		await s.next("down");
		expect(k.read().standing).toBe("waiting");
		expect(k.read().draft.worries).toBe("a");
		await vi.advanceTimersByTimeAsync(600);
		await s.next();
		expect(k.read().standing).toBe("kept");
		expect(s.state.body.worries).toBe("a");
	});

	it("sends a save whose answer was lost again as the same request, and what was typed since after it", async () => {
		const s = server(1, START);
		const k = made(s);
		k.keep({ ...START, worries: "first" });
		await s.next("lose");
		expect(s.state.rev).toBe(2);
		k.keep({ ...START, worries: "second" });
		k.back();
		await s.next();
		await vi.advanceTimersByTimeAsync(500);
		await s.next();
		expect(s.keys).toEqual(["key 1", "key 1", "key 2"]);
		expect(s.state).toEqual({ rev: 3, body: { ...START, worries: "second" } });
		expect(k.read().standing).toBe("kept");
	});

	it("tries again by itself, ever more slowly, and at once when the server is back", async () => {
		const s = server(1, START);
		const k = made(s);
		k.keep({ ...START, worries: "a" });
		for (let n = 0; n < 6; n += 1) {
			await s.next("down");
			await vi.advanceTimersByTimeAsync(8000);
		}
		expect(s.keys.length).toBeGreaterThan(5);
		expect(new Set(s.keys).size).toBe(1);
		await s.next("down");
		k.back();
		await s.next();
		expect(k.read().standing).toBe("kept");
	});

	it("brings different fields together and goes on by itself", async () => {
		const s = server(1, START);
		const k = made(s);
		s.state.rev = 2;
		s.state.body = { ...START, name: "Heron Boathouse" };
		k.keep({ ...START, worries: "a stain" });
		await s.next();
		await s.next();
		expect(s.state.body).toEqual({ name: "Heron Boathouse", worries: "a stain" });
		expect(k.read()).toMatchObject({ standing: "kept", clashes: [] });
	});

	it("waits for a choice when both changed the same field, and then keeps what was chosen", async () => {
		for (const which of ["mine", "theirs"] as const) {
			const s = server(1, START);
			const k = made(s);
			s.state.rev = 2;
			s.state.body = { ...START, worries: "theirs" };
			k.keep({ ...START, worries: "mine" });
			await s.next();
			expect(k.read().standing).toBe("clash");
			expect(k.read().clashes).toEqual([{ path: ["worries"], mine: "mine", theirs: "theirs" }]);
			// Going on to type does not settle it.
			k.later({ name: "Heron 2", worries: "mine" });
			await vi.advanceTimersByTimeAsync(2000);
			expect(s.waiting.length).toBe(0);
			k.choose(["worries"], which);
			await s.next();
			expect(s.state.body).toEqual({ name: "Heron 2", worries: which });
			expect(k.read().standing).toBe("kept");
		}
	});

	it("keeps what the server refuses in sight, with its field, until it is put right", async () => {
		const k = new Keeper<Brief>(
			{ value: START, rev: 1 },
			async (_, body) => {
				if (body.name === "") throw { code: "invalid", message: "A place needs a name.", field: "name" } satisfies Failure;
				return { rev: 2, body };
			},
			() => "key",
		);
		k.keep({ ...START, name: "" });
		await vi.advanceTimersByTimeAsync(0);
		expect(k.read()).toMatchObject({ standing: "refused", wrong: { name: "A place needs a name." }, draft: { name: "" } });
		k.keep({ ...START, name: "Heron" });
		await vi.advanceTimersByTimeAsync(0);
		expect(k.read()).toMatchObject({ standing: "kept", wrong: {} });
	});

	it("shows what others kept where nothing was typed", () => {
		const k = made(server(1, START));
		k.arrived({ value: { ...START, name: "Heron Boathouse" }, rev: 2 });
		expect(k.read()).toMatchObject({ draft: { name: "Heron Boathouse" }, standing: "kept" });
		k.type({ name: "Heron Boathouse", worries: "typed" });
		k.arrived({ value: { name: "Heron House", worries: "" }, rev: 3 });
		expect(k.read()).toMatchObject({ draft: { name: "Heron House", worries: "typed" }, standing: "typed" });
		// An older look at the page says nothing new.
		k.arrived({ value: START, rev: 1 });
		expect(k.read().draft.name).toBe("Heron House");
	});

	it("goes back to what is kept when it is dropped", () => {
		const k = made(server(1, START));
		k.type({ ...START, worries: "never mind" });
		k.drop();
		expect(k.read()).toMatchObject({ draft: START, standing: "kept" });
	});
});
