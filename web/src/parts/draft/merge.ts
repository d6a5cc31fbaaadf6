// Bringing two changes of the same thing together, field by field.

export type Path = readonly string[];
/** A field that was changed on both sides, differently. */
export interface Clash {
	path: Path;
	mine: unknown;
	theirs: unknown;
}

type Fields = { [key: string]: unknown };

export function same(a: unknown, b: unknown): boolean {
	if (Object.is(a, b)) return true;
	if (Array.isArray(a) || Array.isArray(b))
		return Array.isArray(a) && Array.isArray(b) && a.length === b.length && a.every((x, i) => same(x, b[i]));
	if (!isFields(a) || !isFields(b)) return blank(a) && blank(b);
	return [...new Set([...Object.keys(a), ...Object.keys(b)])].every((k) => same(a[k], b[k]));
}

/** A field that is left out and one that holds nothing say the same: the server leaves out what is empty. */
const blank = (v: unknown) => v === undefined || v === null || v === "" || (Array.isArray(v) && v.length === 0);

function isFields(v: unknown): v is Fields {
	return typeof v === "object" && v !== null && !Array.isArray(v);
}

/** Lists whose rows have names are compared row by row. */
function named(list: unknown): Map<string, unknown> | null {
	if (!Array.isArray(list)) return null;
	const rows = new Map<string, unknown>();
	for (const row of list) {
		const id = isFields(row) ? (row.id ?? row.key ?? row.name) : undefined;
		if (typeof id !== "string" || rows.has(id)) return null;
		rows.set(id, row);
	}
	return rows;
}

/**
 * What comes of `mine` and `theirs`, both made from `base`: every field that one side changed is taken from it. A field that both
 * changed stays mine, and is named in the clashes.
 */
export function merge<T>(base: T, mine: T, theirs: T): { merged: T; clashes: Clash[] } {
	const clashes: Clash[] = [];
	const merged = fields([], base, mine, theirs, clashes) as T;
	return { merged, clashes };
}

function fields(path: Path, base: unknown, mine: unknown, theirs: unknown, clashes: Clash[]): unknown {
	if (same(mine, theirs) || same(theirs, base)) return mine;
	if (same(mine, base)) return theirs;
	if (isFields(mine) && isFields(theirs)) {
		const was = isFields(base) ? base : {};
		const keys = [...new Set([...Object.keys(theirs), ...Object.keys(mine)])];
		return Object.fromEntries(keys.map((k) => [k, fields([...path, k], was[k], mine[k], theirs[k], clashes)]));
	}
	const [was, here, there] = [named(base) ?? new Map<string, unknown>(), named(mine), named(theirs)];
	if (here && there) {
		const ids = [...new Set([...there.keys(), ...here.keys()])];
		const rows = ids.map((id) => fields([...path, id], was.get(id), here.get(id), there.get(id), clashes));
		return rows.filter((r) => r !== undefined);
	}
	clashes.push({ path, mine, theirs });
	return mine;
}

/** The same thing with one field set. */
export function put<T>(value: T, path: Path, to: unknown): T {
	const [first, ...rest] = path;
	if (first === undefined) return to as T;
	if (Array.isArray(value)) {
		const at = (value as unknown[]).findIndex((r) => isFields(r) && (r.id ?? r.key ?? r.name) === first);
		const next = put(at < 0 ? undefined : (value as unknown[])[at], rest, to);
		const list = [...(value as unknown[])];
		if (at < 0) list.push(next);
		else list[at] = next;
		return list.filter((r) => r !== undefined) as T;
	}
	const fields: Fields = isFields(value) ? value : {};
	return { ...fields, [first]: put(fields[first], rest, to) } as T;
}
