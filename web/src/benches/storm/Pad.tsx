import { type KeyboardEvent, type PointerEvent, useState } from "react";
import styled from "styled-components";
import { Drawing } from "../../design/Drawing";
import { tone } from "../../design/tokens";
import { type Frame, frameOf, within } from "./frame";

export type Mark = "hit" | "doubtful" | "other";

const Sheet = styled.div`position: relative; max-width: 344px; touch-action: manipulation;`;
const Over = styled.div`
	position: absolute;
	inset: 0;
	cursor: crosshair;
	&:focus-visible { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
	i { display: none; position: absolute; width: 25px; height: 25px; margin: -12px 0 0 -12px; pointer-events: none;
		background: linear-gradient(${tone.copper}, ${tone.copper}) 50% 50% / 2px 100% no-repeat, linear-gradient(${tone.copper}, ${tone.copper}) 50% 50% / 100% 2px no-repeat; }
	&:focus-visible i { display: block; }
`;

interface PadProps {
	name: string;
	svg: string;
	onMark: (x: number, y: number, mark: Mark) => void;
}

const STEP = 0.05;
const MOVES: { [key: string]: [number, number] } = {
	ArrowRight: [STEP, 0],
	ArrowLeft: [-STEP, 0],
	ArrowUp: [0, STEP],
	ArrowDown: [0, -STEP],
};
const KEYS: { [key: string]: Mark } = { Enter: "hit", " ": "hit", h: "hit", d: "doubtful", n: "other" };

/** A square to count in: tap where the hit lies, or go there with the arrows and press a key. */
export function Pad({ name, svg, onMark }: PadProps) {
	const [at, go] = useState<[number, number]>([0.5, 0.5]);
	const frame: Frame = frameOf(svg);
	const tap = (e: PointerEvent<HTMLDivElement>) => {
		const r = e.currentTarget.getBoundingClientRect();
		const p = within(frame, (e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height);
		if (p) onMark(p[0], p[1], "hit");
	};
	const keys = (e: KeyboardEvent) => {
		if (e.ctrlKey || e.metaKey || e.altKey) return;
		const move = MOVES[e.key];
		const mark = KEYS[e.key.length === 1 ? e.key.toLowerCase() : e.key];
		if (move) go(([x, y]) => [Math.min(1, Math.max(0, x + move[0])), Math.min(1, Math.max(0, y + move[1]))]);
		else if (mark) onMark(Number(at[0].toFixed(2)), Number(at[1].toFixed(2)), mark);
		else return;
		e.preventDefault();
		e.stopPropagation();
	};
	const left = ((frame.left + at[0] * frame.wide) / frame.width) * 100;
	const top = ((frame.top + (1 - at[1]) * frame.high) / frame.height) * 100;
	return (
		<Sheet>
			<Drawing svg={svg} />
			<Over
				role="application"
				tabIndex={0}
				aria-label={`${name}: arrows move, Enter a sure hit, D a doubtful one, N what is no hail. From the left ${Math.round(at[0] * 100)} %, up ${Math.round(at[1] * 100)} %.`}
				onPointerUp={tap}
				onKeyDown={keys}
			>
				<i style={{ left: `${left}%`, top: `${top}%` }} />
			</Over>
		</Sheet>
	);
}
