// Where a tap on the drawn square lies in the square: only scaling.

/** The square within its drawing, in the drawing's own units. */
export interface Frame {
	left: number;
	top: number;
	wide: number;
	high: number;
	width: number;
	height: number;
}

/** Reads the frame the server's drawing carries. */
export function frameOf(svg: string): Frame {
	const of = (name: string) => Number(svg.match(new RegExp(`data-${name}="([\\d.]+)"`))?.[1] ?? 0);
	const box = svg.match(/viewBox="0 0 ([\d.]+) ([\d.]+)"/);
	return {
		left: of("left"),
		top: of("top"),
		wide: of("wide"),
		high: of("high"),
		width: Number(box?.[1] ?? 1),
		height: Number(box?.[2] ?? 1),
	};
}

/** A point of the drawing, as parts of its width and height, as parts of the square from its lower left corner; none outside. */
export function within(f: Frame, x: number, y: number): [number, number] | null {
	const u = (x * f.width - f.left) / f.wide;
	const v = 1 - (y * f.height - f.top) / f.high;
	if (!(u >= 0 && u <= 1 && v >= 0 && v <= 1)) return null;
	return [Number(u.toFixed(3)), Number(v.toFixed(3))];
}
