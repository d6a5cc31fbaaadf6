import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import styled from "styled-components";
import { ask, type PictureMark } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Row, Soft, Stack } from "../../design/layout";
import { hairline, tone } from "../../design/tokens";

const Frame = styled.div`
	position: relative;
	width: fit-content;
	margin: 0 auto;
	border: ${hairline};
	img { display: block; max-width: 100%; max-height: 56vh; width: auto; height: auto; }
	svg { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; cursor: crosshair; }
	g:focus { outline: 3px solid ${tone.copper}; }
`;

type Shape = PictureMark["shape"];
type Point = [number, number];
const SHAPES: [Shape, string][] = [
	["ring", "Ring"],
	["arrow", "Arrow"],
	["line", "Measured line"],
	["text", "Words"],
];
const NAMES = Object.fromEntries(SHAPES) as Record<Shape, string>;
const inside = (v: number) => Math.min(1, Math.max(0, v));

/** A mark as it is printed; until that has come, where it goes. */
function Drawn({ mark, svg, w, h }: { mark: PictureMark; svg: string | undefined; w: number; h: number }) {
	// biome-ignore lint/security/noDangerouslySetInnerHtml: drawn by our own server, which escapes what was typed
	if (svg !== undefined) return <g dangerouslySetInnerHTML={{ __html: svg }} />;
	const [x1 = 0, y1 = 0] = mark.from;
	const [x2 = 0, y2 = 0] = mark.to;
	const unit = Math.max(w, h) / 200;
	return (
		<path
			d={`M${x1 * w} ${y1 * h}L${x2 * w} ${y2 * h}`}
			stroke={tone.copper}
			strokeWidth={1.5 * unit}
			strokeDasharray={`${2 * unit}`}
			strokeLinecap="round"
		/>
	);
}

/** A picture with its marks: drawn with the pointer, or set and moved with the keys. The picture itself stays as it came. */
export function Marks({
	src,
	alt,
	width,
	height,
	marks,
	onChange,
}: {
	src: string;
	alt: string;
	width: number;
	height: number;
	marks: PictureMark[];
	onChange: (marks: PictureMark[]) => void;
}) {
	const [shape, setShape] = useState<Shape | null>(null);
	const [draft, setDraft] = useState<PictureMark | null>(null);
	const [words, setWords] = useState("");
	const svg = useRef<SVGSVGElement>(null);
	const all = draft ? [...marks, draft] : marks;
	const drawn = useQuery({ ...ask.marks(all, width, height), enabled: all.length > 0 }).data ?? [];
	const where = (e: React.PointerEvent): Point => {
		const box = svg.current?.getBoundingClientRect();
		return box ? [inside((e.clientX - box.left) / box.width), inside((e.clientY - box.top) / box.height)] : [0, 0];
	};
	const add = (mark: PictureMark) => {
		onChange([...marks, mark]);
		setDraft(null);
		setShape(null);
		setWords("");
	};
	const move = (i: number, dx: number, dy: number, endOnly: boolean) =>
		onChange(
			marks.map((m, k) => {
				if (k !== i) return m;
				const by = (p: number[]): Point => [inside((p[0] ?? 0) + dx), inside((p[1] ?? 0) + dy)];
				return { ...m, from: endOnly ? m.from : by(m.from), to: by(m.to) };
			}),
		);
	return (
		<Stack $gap={8}>
			<Frame>
				<img src={src} alt={alt} width={width} height={height} />
				{/* biome-ignore lint/a11y/useSemanticElements: a drawing cannot be a fieldset */}
				<svg
					ref={svg}
					viewBox={`0 0 ${width} ${height}`}
					role="group"
					aria-label="Marks on the picture"
					onPointerDown={(e) => {
						if (!shape) return;
						e.currentTarget.setPointerCapture(e.pointerId);
						const p = where(e);
						setDraft({ shape, from: p, to: p, text: words });
					}}
					onPointerMove={(e) => draft && setDraft({ ...draft, to: draft.shape === "text" ? draft.from : where(e) })}
					onPointerUp={() => draft && add(draft)}
				>
					{marks.map((m, i) => (
						// biome-ignore lint/a11y/noStaticElementInteractions: a mark is moved with the keys once it has the focus
						<g
							// biome-ignore lint/suspicious/noArrayIndexKey: marks have no id of their own
							key={i}
							tabIndex={0}
							aria-label={`${NAMES[m.shape]}${m.text ? `: ${m.text}` : ""}. Arrows move it, Shift and arrows move its end, Delete takes it off.`}
							onKeyDown={(e) => {
								const step: Record<string, Point> = {
									ArrowLeft: [-0.01, 0],
									ArrowRight: [0.01, 0],
									ArrowUp: [0, -0.01],
									ArrowDown: [0, 0.01],
								};
								const by = step[e.key];
								if (by) move(i, by[0], by[1], e.shiftKey);
								else if (e.key === "Delete" || e.key === "Backspace") onChange(marks.filter((_, k) => k !== i));
								else return;
								e.preventDefault();
							}}
						>
							<Drawn mark={m} svg={drawn[i]} w={width} h={height} />
						</g>
					))}
					{draft && <Drawn mark={draft} svg={drawn[marks.length]} w={width} h={height} />}
				</svg>
			</Frame>
			<Row $gap={6}>
				{SHAPES.map(([s, name]) => (
					<PlainButton key={s} aria-pressed={shape === s} onPress={() => setShape(shape === s ? null : s)}>
						{shape === s ? <b>{name}</b> : name}
					</PlainButton>
				))}
				<div style={{ flex: "1 1 160px" }}>
					<Field
						label={shape === "line" ? "Measured length" : "Words beside the mark"}
						value={words}
						onChange={setWords}
						placeholder={shape === "line" ? "14 in" : ""}
					/>
				</div>
				{shape && (
					<QuietButton
						onPress={() => add({ shape, from: [0.4, 0.4], to: shape === "text" ? [0.4, 0.4] : [0.6, 0.6], text: words })}
					>
						Put it in the middle
					</QuietButton>
				)}
				{marks.length > 0 && <QuietButton onPress={() => onChange(marks.slice(0, -1))}>Take the last mark off</QuietButton>}
			</Row>
			{shape && <Soft>Draw on the picture{shape === "text" ? ": press where the words begin." : "."}</Soft>}
		</Stack>
	);
}
