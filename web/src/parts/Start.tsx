import type { ReactNode } from "react";
import styled from "styled-components";
import { tone } from "../design/tokens";

const First = styled.figure`display: flex; flex-wrap: wrap; gap: 12px 22px; align-items: center; margin: 12px 0 18px; svg { flex: none; } figcaption { flex: 1; min-width: 220px; max-width: 460px; }`;

// What to do on site before there is anything to show: drawn plainly, 200 by 110.
const drawings = {
	// The building from above; the tape goes along its walls, clockwise from the front left corner.
	walls: {
		ink: "M50 30H120V55H150V85H50ZM50 85m-4 0a4 4 0 1 0 8 0a4 4 0 1 0 -8 0",
		way: "M40 92V22H128V47H158V93H62m7 -5l-7 5l7 5",
		words: [
			["start", 20, 104],
			["18 L 9 …", 76, 16],
		],
	},
	// A wall with its floor, the level on its legs, and a staff held on the ground.
	level: {
		ink: "M10 10V92H190M10 40H26M26 10V92M96 50l-12 42M96 50l12 42M96 50V92M84 42h24v8H84zM160 20V92M156 20h8M156 34h8M156 48h8M156 62h8M156 76h8",
		way: "M108 46H158m-7 -4l7 4l-7 4M84 46H28m7 -4l-7 4l7 4",
		words: [
			["floor", 30, 38],
			["staff", 168, 32],
		],
	},
	// A wall with three dry places and one wet one.
	meter: {
		ink: "M20 10V92H180V10M40 60h8v14h-8zM70 60h8v14h-8zM100 60h8v14h-8z",
		way: "M44 52V38M74 52V38M104 52V38M40 44l4 -6l4 6",
		water: "M150 40c10 14 14 20 14 27a14 14 0 1 1 -28 0c0 -7 4 -13 14 -27z",
		words: [
			["dry, dry, dry", 40, 30],
			["then here", 128, 30],
		],
	},
	// From the roof down to a spot, and back.
	drop: {
		ink: "M30 92V52L100 20L170 52V92M30 92H170M84 62h10",
		water: "M122 34L110 52L90 58",
		way: "M64 84L86 66m-7 2l7 -2l-2 7",
		words: [
			["wet here", 34, 88],
			["in here?", 128, 28],
		],
	},
	// A slope with a square that somebody drew before looking.
	square: {
		ink: "M20 92L60 24H180L140 92ZM92 76l16 -28h32l-16 28z",
		way: "M104 66h1M112 58h1M122 64h1M118 54h1",
		words: [["10 ft", 96, 90]],
	},
	// A roof with rain on it, and nothing to fall on yet.
	rain: {
		ink: "M30 92V62L100 24L170 62V92",
		water: "M60 8v14M90 4v14M120 6v14M150 12v14",
		words: [],
	},
} as const;

/** An empty bench: one drawing of what to do first, and one sentence. */
export function Start({ of, children }: { of: keyof typeof drawings; children: ReactNode }) {
	const d = drawings[of];
	return (
		<First>
			<svg width="200" height="110" viewBox="0 0 200 110" aria-hidden="true" fontSize="12" fill={tone.inkSoft}>
				<path d={d.ink} fill="none" stroke={tone.ink} strokeWidth="1.5" />
				{"way" in d && <path d={d.way} fill="none" stroke={tone.copper} strokeWidth="1.5" />}
				{"water" in d && <path d={d.water} fill="none" stroke={tone.water} strokeWidth="2" />}
				{d.words.map(([words, x, y]) => (
					<text key={words} x={x} y={y}>
						{words}
					</text>
				))}
			</svg>
			<figcaption>{children}</figcaption>
		</First>
	);
}
