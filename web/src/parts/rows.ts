import type { Draft } from "./draft/useDraft";

/** The next short name: L1, L2 … */
export const nextId = (letter: string, all: { id: string }[]) =>
	`${letter}${1 + Math.max(0, ...all.map((x) => Number(x.id.slice(letter.length)) || 0))}`;

export interface Rows<T> {
	rows: T[];
	/** Changes one of them; kept at once when it was chosen, with the next pause when it was typed. */
	set: (id: string, part: Partial<T>, now?: boolean) => void;
	add: (row: T) => void;
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
	const put = (next: T[], now: boolean) => {
		const body = { ...editing.draft, [of]: next } as R;
		if (now) editing.keep(body);
		else editing.type(body);
	};
	const set: Rows<T>["set"] = (id, part, now = false) =>
		put(
			rows.map((r) => (r.id === id ? { ...r, ...part } : r)),
			now,
		);
	const wrong: Rows<T>["wrong"] = (id, field) => editing.wrong[`${of}.${id}.${field}`];
	return {
		rows,
		set,
		wrong,
		settle: () => editing.keep(),
		add: (row) => put([...rows, row], true),
		remove: (id) =>
			put(
				rows.filter((r) => r.id !== id),
				true,
			),
		text: (row, field) => ({
			value: String(row[field] ?? ""),
			onChange: (x) => set(row.id, { [field]: x } as Partial<T>),
			onBlur: () => editing.keep(),
			error: wrong(row.id, field),
		}),
	};
}
