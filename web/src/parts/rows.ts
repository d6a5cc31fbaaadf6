import type { Draft } from "./draft/useDraft";

/** The next short name: L1, L2 … */
export const nextId = (letter: string, all: { id: string }[]) =>
	`${letter}${1 + Math.max(0, ...all.map((x) => Number(x.id.slice(letter.length)) || 0))}`;

export interface Rows<T> {
	rows: T[];
	/** Changes one of them; kept at once when it was chosen, with the next pause when it was typed. */
	set: (id: string, part: Partial<T> | ((row: T) => Partial<T>), now?: boolean) => void;
	/** Adds one; made of the rows there are by then, where its name depends on them. */
	add: (row: T | ((rows: T[]) => T)) => void;
	remove: (id: string) => void;
	/** Typing is over: what was typed is kept. */
	settle: () => void;
	/** What is wrong with a field of one of them. */
	wrong: (id: string, field: string) => string | undefined;
	/** What a text field of one of them needs. */
	text: (
		row: T,
		field: keyof T & string,
	) => { value: string; onChange: (x: string) => void; onBlur: () => void; error: string | undefined };
}

/** The rows of a list within what is edited, by their short names. */
export function rowsOf<R, K extends keyof R & string, T extends { id: string }>(editing: Draft<R>, of: K): Rows<T> {
	const rows = (editing.draft[of] ?? []) as T[];
	// Made of the rows there are when the change comes: two changes in one breath, or one that waited, leave each other alone.
	const put = (next: (rows: T[]) => T[], now: boolean) => {
		const change = (draft: R) => ({ ...draft, [of]: next((draft[of] ?? []) as T[]) }) as R;
		if (now) editing.keep(change);
		else editing.type(change);
	};
	const set: Rows<T>["set"] = (id, part, now = false) =>
		put((all) => all.map((r) => (r.id === id ? { ...r, ...(typeof part === "function" ? part(r) : part) } : r)), now);
	const wrong: Rows<T>["wrong"] = (id, field) => editing.wrong[`${of}.${id}.${field}`];
	return {
		rows,
		set,
		wrong,
		settle: () => editing.keep(),
		add: (row) => put((all) => [...all, typeof row === "function" ? row(all) : row], true),
		remove: (id) => put((all) => all.filter((r) => r.id !== id), true),
		text: (row, field) => ({
			value: String(row[field] ?? ""),
			onChange: (x) => set(row.id, { [field]: x } as Partial<T>),
			onBlur: () => editing.keep(),
			error: wrong(row.id, field),
		}),
	};
}
