// What is typed, until it is kept. One keeper for each thing that is edited; it lives as long as anything in it is not kept, however
// the page moves on meanwhile. It knows nothing of the screen.
//
// - The draft is only ever changed by the person, or by what others kept in fields the person did not touch.
// - One save at a time. A save that got no answer is sent again as the same request; what was typed since goes after it.
// - Two changes of different fields are brought together; two of the same field wait for the person's choice.

import { type Clash, merge, type Path, put, same } from "./merge";

export interface Kept<T> {
	value: T;
	/** The revision a change must name; none for something that is not kept yet. */
	rev: number | null;
}

/** Why a save was not kept. */
export interface Failure {
	code: string;
	message: string;
	field?: string | undefined;
	theirs?: { rev: number; body: unknown } | undefined;
}

/** Sends a change under its key. Fails with a [Failure]. */
export type Save<T> = (base: number | null, body: T, key: string) => Promise<{ rev: number; body: T }>;

export type Standing =
	| "kept"
	/** Typed, and not sent yet. */
	| "typed"
	| "saving"
	/** No answer; tried again by itself. */
	| "waiting"
	/** The server says what is wrong; the next change is sent again. */
	| "refused"
	/** Two versions of the same field. */
	| "clash";

export interface Snapshot<T> {
	draft: T;
	standing: Standing;
	/** What is wrong, by field. */
	wrong: { [field: string]: string };
	/** What is wrong with no field of its own. */
	fault: string | null;
	clashes: Clash[];
}

/** Pause after the last stroke before it is sent, milliseconds. */
const PAUSE = 450;
/** Pauses before a save without an answer is sent again, milliseconds; the last one repeats. */
const AGAIN = [500, 1000, 2000, 4000, 8000];
/** Faults that pass by themselves. */
const PASSING = new Set(["unreachable", "busy", "too-long", "too-slow", "disk-full", "internal"]);

interface Sent<T> {
	key: string;
	base: Kept<T>;
	body: T;
}

// The page that is looked at, so that what is typed can be found again; the strip says which.
let page = "";

/** Which page is looked at from now on. */
export function lookedAt(path: string) {
	page = path;
	for (const w of watchers) w();
}

export class Keeper<T> {
	/** The page it was last typed on. */
	at = "";
	private base: Kept<T>;
	private snapshot: Snapshot<T>;
	/** On its way, or without an answer. */
	private sent: Sent<T> | null = null;
	private inFlight = false;
	/** Came while a save was on its way: looked at when it is back. */
	private arrivedMeanwhile: Kept<T> | null = null;
	private theirs: Kept<T> | null = null;
	private wanted = false;
	private tries = 0;
	private stopped = false;
	private timer: ReturnType<typeof setTimeout> | undefined;
	private readonly listeners = new Set<() => void>();

	constructor(
		kept: Kept<T>,
		private save: Save<T>,
		private readonly newKey: () => string,
		/** Told after every save that was kept. */
		private onKept: () => void = () => undefined,
	) {
		this.base = kept;
		this.snapshot = { draft: kept.value, standing: "kept", wrong: {}, fault: null, clashes: [] };
	}

	/** The way to send may be made anew at each drawing of the screen; the newest is used. */
	use(save: Save<T>, onKept: () => void) {
		this.save = save;
		this.onKept = onKept;
	}

	readonly read = (): Snapshot<T> => this.snapshot;
	readonly subscribe = (listener: () => void) => {
		this.listeners.add(listener);
		return () => {
			this.listeners.delete(listener);
		};
	};
	get isWatched() {
		return this.listeners.size > 0;
	}
	/** Whether anything in it would be lost. */
	get isOpen() {
		return this.snapshot.standing !== "kept";
	}

	/** Changes the draft. Nothing is sent until [keep] or [later]. */
	type(draft: T) {
		const standing = this.rest(draft);
		this.at = page;
		this.set({ draft, standing });
	}
	/** Changes the draft and sends it after a pause. */
	later(draft: T) {
		this.type(draft);
		this.wanted = true;
		this.plan(PAUSE);
	}
	/** Sends the draft, or what is given, at once. */
	keep(draft: T = this.snapshot.draft) {
		this.type(draft);
		this.wanted = true;
		this.flush();
	}
	/** Sends nothing any more, and nothing again. */
	stop() {
		clearTimeout(this.timer);
		this.stopped = true;
	}
	/** The draft goes back to what is kept. */
	drop() {
		clearTimeout(this.timer);
		this.wanted = false;
		this.theirs = null;
		if (!this.inFlight) this.sent = null;
		this.set({ draft: this.base.value, standing: this.inFlight ? "saving" : "kept", wrong: {}, fault: null, clashes: [] });
	}

	/** What the server says is kept: from a look at the page, an undo, somebody else. */
	arrived(kept: Kept<T>) {
		if (kept.rev === this.base.rev || (kept.rev ?? 0) < (this.base.rev ?? 0)) return;
		if (this.sent) {
			this.arrivedMeanwhile = kept;
			return;
		}
		this.bringTogether(kept);
	}

	/** The server can be reached again: what waits is sent at once. */
	back() {
		if (this.snapshot.standing !== "waiting") return;
		this.tries = 0;
		clearTimeout(this.timer);
		this.flush();
	}

	/** Which version of a field that clashes. When all are chosen it is sent. */
	choose(path: Path, which: "mine" | "theirs") {
		const clash = this.snapshot.clashes.find((c) => same(c.path, path));
		if (!clash || !this.theirs) return;
		const draft = which === "mine" ? this.snapshot.draft : put(this.snapshot.draft, path, clash.theirs);
		const clashes = this.snapshot.clashes.filter((c) => c !== clash);
		if (clashes.length > 0) {
			this.set({ draft, clashes });
			return;
		}
		this.base = this.theirs;
		this.theirs = null;
		this.set({ draft, clashes, standing: same(draft, this.base.value) ? "kept" : "typed" });
		this.keep();
	}

	private rest(draft: T): Standing {
		if (this.theirs) return "clash";
		if (this.sent) return this.inFlight ? "saving" : "waiting";
		return same(draft, this.base.value) ? "kept" : "typed";
	}

	private bringTogether(kept: Kept<T>) {
		const { merged, clashes } = merge(this.base.value, this.snapshot.draft, kept.value);
		if (clashes.length > 0) {
			this.theirs = kept;
			this.set({ draft: merged, clashes, standing: "clash", fault: null });
			return;
		}
		this.base = kept;
		const open = !same(merged, kept.value);
		this.set({ draft: open ? merged : kept.value, clashes: [], standing: open ? "typed" : "kept" });
		if (open && this.wanted) this.flush();
	}

	private plan(pause: number) {
		clearTimeout(this.timer);
		if (this.stopped) return;
		this.timer = setTimeout(() => this.flush(), pause);
	}

	private flush() {
		if (this.inFlight || this.theirs || this.stopped) return;
		clearTimeout(this.timer);
		if (!this.sent) {
			const body = this.snapshot.draft;
			if (same(body, this.base.value) && this.base.rev !== null) {
				this.wanted = false;
				this.set({ standing: "kept", wrong: {}, fault: null });
				return;
			}
			this.sent = { key: this.newKey(), base: this.base, body };
			this.wanted = false;
		}
		void this.send(this.sent);
	}

	private async send(sent: Sent<T>) {
		this.inFlight = true;
		this.set({ standing: this.tries > 0 ? "waiting" : "saving" });
		try {
			const kept = await this.save(sent.base.rev, sent.body, sent.key);
			this.inFlight = false;
			this.sent = null;
			this.tries = 0;
			this.wasKept(sent, { value: kept.body, rev: kept.rev });
		} catch (e) {
			this.inFlight = false;
			this.wasNotKept(sent, e as Failure);
		}
	}

	private wasKept(sent: Sent<T>, kept: Kept<T>) {
		// What was typed while it was on its way stays; the rest is as the server keeps it.
		const { merged } = merge(sent.body, this.snapshot.draft, kept.value);
		this.base = kept;
		const open = !same(merged, kept.value);
		this.set({ draft: open ? merged : kept.value, standing: open ? "typed" : "kept", wrong: {}, fault: null });
		this.onKept();
		const meanwhile = this.arrivedMeanwhile;
		this.arrivedMeanwhile = null;
		if (meanwhile) this.arrived(meanwhile);
		if (this.wanted) this.plan(PAUSE);
	}

	private wasNotKept(sent: Sent<T>, why: Failure) {
		if (PASSING.has(why.code)) {
			const pause = AGAIN[Math.min(this.tries, AGAIN.length - 1)] ?? 1000;
			this.tries += 1;
			this.set({ standing: "waiting", fault: why.message });
			this.plan(pause);
			return;
		}
		this.sent = null;
		this.tries = 0;
		if (why.code === "stale" && why.theirs) {
			this.wanted = true;
			this.bringTogether({ value: why.theirs.body as T, rev: why.theirs.rev });
			return;
		}
		const wrong = why.field ? { [why.field]: why.message } : {};
		const again = this.wanted && !same(this.snapshot.draft, sent.body);
		this.set({ standing: "refused", wrong, fault: why.field ? null : why.message });
		if (again) this.plan(PAUSE);
	}

	private set(change: Partial<Snapshot<T>>) {
		this.snapshot = { ...this.snapshot, ...change };
		for (const l of this.listeners) l();
		changed();
	}
}

// All that are open, so that the strip can say how things stand, and so that nothing ends with the screen it was typed on.
const keepers = new Map<string, Keeper<unknown>>();
const watchers = new Set<() => void>();

function changed() {
	for (const [key, k] of keepers) if (!k.isOpen && !k.isWatched) keepers.delete(key);
	for (const w of watchers) w();
}

/** The keeper of a thing: the one that is open, or a new one. */
export function keeperOf<T>(key: string, make: () => Keeper<T>): Keeper<T> {
	const there = keepers.get(key) as Keeper<T> | undefined;
	if (there) return there;
	const keeper = make();
	keepers.set(key, keeper as Keeper<unknown>);
	return keeper;
}

// Text of fields that is no value yet, "20 E of" for a direction: there is nothing to send, and it is not kept.
const halves = new Map<string, { text: string; at: string }>();

/** What is half typed in a field, or null. */
export const halfTyped = (field: string): string | null => halves.get(field)?.text ?? null;

/** Remembers what is half typed in a field, wherever the page moves on to, until it is a value or is put right. */
export function typeHalf(field: string, text: string | null) {
	if (text === halfTyped(field)) return;
	if (text === null) halves.delete(field);
	else halves.set(field, { text, at: page });
	for (const w of watchers) w();
}

// Work that is in the middle of something, by its name; unfinished where it would be missed.
const stays = new Map<string, { value: unknown; unfinished: boolean; at: string }>();

/** What stayed under a name; undefined where nothing did. */
export const stayed = <T>(name: string) => stays.get(name)?.value as T | undefined;

/**
 * Lets something stay under its name, whatever bench is looked at meanwhile; what is unfinished is not kept yet. `at` is the beginning of
 * the pages it is in sight on, where that is more than the one that is looked at.
 */
export function stay(name: string, value: unknown, unfinished = false, at = page) {
	stays.set(name, { value, unfinished, at });
	for (const w of watchers) w();
}

const RANK: Standing[] = ["kept", "typed", "saving", "refused", "waiting", "clash"];

/** Everything that is not kept, and the page it was typed on. */
function* open(): Generator<[Standing, string]> {
	for (const { at } of halves.values()) yield ["refused", at];
	for (const { unfinished, at } of stays.values()) if (unfinished) yield ["typed", at];
	for (const k of keepers.values()) if (k.isOpen) yield [k.read().standing, k.at];
}

/** How everything that is edited stands: the worst of it. */
export function standing(): Standing {
	return RANK[Math.max(0, ...[...open()].map(([standing]) => RANK.indexOf(standing)))] ?? "kept";
}

/** What a person has to go to. */
const DO: Standing[] = ["typed", "refused", "clash"];

/** The page to go to for the worst of what is open; null while that is in sight, passes by itself, or there is none. */
export function elsewhere(): string | null {
	const worst = standing();
	if (!DO.includes(worst)) return null;
	const there = [...open()].filter(([standing]) => standing === worst).map(([, at]) => at);
	return there.some((at) => page.startsWith(at)) ? null : (there[0] ?? null);
}

export function watch(listener: () => void) {
	watchers.add(listener);
	return () => {
		watchers.delete(listener);
	};
}

/** The server can be reached again. */
export function allBack() {
	for (const k of keepers.values()) k.back();
}

/** Forgets everything: between tests. */
export function forgetAll() {
	for (const k of keepers.values()) k.stop();
	keepers.clear();
	halves.clear();
	stays.clear();
	page = "";
}
