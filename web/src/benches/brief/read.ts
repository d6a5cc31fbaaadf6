// What is typed on the brief, read: a value, nothing (null), or not a value yet (undefined).

/** The sixteen points of the compass, from north by east. */
export const POINTS = ["N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW"];

/** "200", "SSW" and "200° SSW" are all directions; anything else, "20 E of S" too, is left for the person to put right. */
export function direction(text: string): number | null | undefined {
	const t = text.trim().toUpperCase();
	if (t === "") return null;
	const point = POINTS.indexOf(t);
	if (point >= 0) return point * 22.5;
	const [, figure, of] = /^(\d+(?:\.\d+)?)\s*(?:°|DEG|DEGREES)?\s*([NESW]*)$/.exec(t) ?? [];
	const n = Number(figure);
	if (figure === undefined || n > 360) return undefined;
	// A point behind the figure must be the one the figure stands at.
	return !of || of === POINTS[Math.round(n / 22.5) % 16] ? n : undefined;
}

/** A figure without a fraction, such as a year. */
export function whole(text: string): number | null | undefined {
	if (text.trim() === "") return null;
	return /^\d+$/.test(text.trim()) ? Number(text) : undefined;
}
