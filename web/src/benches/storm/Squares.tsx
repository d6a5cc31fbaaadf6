import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { marksOf } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Beside, Columns, Folded, Hazard, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { NumberBox } from "../../design/numbers";
import { nextId, rowsOf } from "../../parts/rows";
import { useShown } from "../../parts/units";
import { withMarksOf } from "./marks";
import { type Mark, Pad } from "./Pad";
import { type PartProps, slopesOf, type Visit } from "./Storm";

type Square = Schemas["SquareKept"];
type Hit = Schemas["HitKept"];

export const HOW = [
	{ id: "hand", name: "By hand" },
	{ id: "ladder", name: "By hand, from the ladder" },
	{ id: "pole", name: "Camera on a pole" },
	{ id: "glass", name: "Field glass" },
	{ id: "drone", name: "Drone pictures" },
	{ id: "not-reached", name: "Not reached" },
];
const KINDS = [
	{ id: "bruise", name: "Bruise, soft mat" },
	{ id: "fracture", name: "Fracture of the mat" },
	{ id: "granules-gone", name: "Granules gone, mat bright" },
	{ id: "split", name: "Split, sharp and fresh" },
	{ id: "dent", name: "Dent in metal" },
	{ id: "crack", name: "Cracked tile" },
	{ id: "other", name: "No hail, told by eye" },
];
/** A seed nobody chose. */
const fresh = () => crypto.getRandomValues(new Uint32Array(1))[0] ?? 1;

interface Props extends PartProps {
	square: string | null;
	onSquare: (id: string) => void;
}

/** Test squares: placed by a seed before anyone looks, counted by tapping. */
export function Squares(props: Props) {
	const { page, editing, square, onSquare } = props;
	const list = rowsOf<Visit, "squares", Square>(editing, "squares");
	const slopes = slopesOf(page);
	const [slope, setSlope] = useState(slopes[0]?.id ?? "");
	const chosen = list.rows.find((q) => q.id === square) ?? list.rows[0];
	const add = () => {
		const id = nextId("Q", list.rows);
		const like = list.rows.filter((q) => q.slope === slope).at(-1);
		const how = page.account.slopes.find((s) => s.facet === slope)?.how ?? "hand";
		list.add({
			id,
			slope,
			seed: fresh(),
			wide: like?.wide ?? "10 ft",
			high: like?.high ?? "10 ft",
			moved: null,
			how: how === "not-reached" ? "hand" : how,
			counted: false,
			unplaced: 0,
			largest: "",
			hits: [],
		});
		onSquare(id);
	};
	return (
		<Stack>
			<Row $gap={8}>
				<Chooser label="On" choices={slopes} value={slope} onChange={(s) => s && setSlope(s)} />
				<PlainButton onPress={add}>Draw a square</PlainButton>
				<Soft>Its place is drawn at random inside the slope, before anyone looks. The seed is kept.</Soft>
			</Row>
			{list.rows.length > 0 && (
				<Row $gap={6} role="group" aria-label="Squares">
					{list.rows.map((q) => {
						const out = page.account.squares.find((a) => a.id === q.id);
						return (
							<PlainButton key={q.id} aria-pressed={q.id === chosen?.id} onPress={() => onSquare(q.id)}>
								{q.id} · {out?.counted ? `${out.sure}${out.doubtful ? ` + ${out.doubtful}?` : ""}` : "not counted"}
							</PlainButton>
						);
					})}
				</Row>
			)}
			{chosen && <One key={chosen.id} {...props} kept={chosen} />}
			<Seen {...props} />
		</Stack>
	);
}

/** How each slope was looked at, and the advice on going up. */
function Seen({ page, editing }: PartProps) {
	const list = rowsOf<Visit, "seen", Schemas["SlopeSeen"]>(editing, "seen");
	const set = (id: string, part: Partial<Schemas["SlopeSeen"]>, now: boolean) => {
		if (list.rows.some((s) => s.id === id)) list.set(id, part, now);
		else list.add({ id, how: "hand", why: "", ...part });
	};
	return (
		<Folded head="How each slope was looked at">
			{page.account.slopes.map((s) => {
				const row = list.rows.find((r) => r.id === s.facet);
				return (
					<Stack key={s.facet} $gap={2}>
						<Columns>
							<Chooser
								label={s.label}
								choices={HOW}
								value={row?.how ?? ""}
								onChange={(h) => h && set(s.facet, { how: h as Square["how"] }, true)}
								placeholder="Not said"
							/>
							<Field
								label="Why so"
								value={row?.why ?? ""}
								onChange={(why) => set(s.facet, { why }, false)}
								onBlur={() => editing.keep()}
								error={list.wrong(s.facet, "why")}
							/>
						</Columns>
						<Soft>
							{s.advice}. {s.advice_why.join(" ")}
						</Soft>
						{s.against && <Hazard>{s.against}</Hazard>}
					</Stack>
				);
			})}
		</Folded>
	);
}

/** One square. */
function One({ view, page, editing, kept }: Props & { kept: Square }) {
	const u = useShown();
	const list = rowsOf<Visit, "squares", Square>(editing, "squares");
	const out = page.account.squares.find((a) => a.id === kept.id);
	const svg = page.drawn.find((d) => d.square === kept.id)?.svg;
	const slope = page.account.slopes.find((s) => s.facet === kept.slope);
	const hits = kept.hits ?? [];
	const [picked, pick] = useState<string | null>(null);
	const set = (part: Partial<Square>, now = true) => list.set(kept.id, part, now);
	const mark = (x: number, y: number, as: Mark) => {
		const last = hits.filter((h) => h.kind !== "other").at(-1);
		const id = nextId("h", hits);
		const kind = as === "other" ? "other" : (last?.kind ?? slope?.usual ?? "bruise");
		set({ hits: [...hits, { id, x, y, size: "", kind, unsure: as === "doubtful", signs: {} }], counted: true });
		pick(id);
	};
	const hit = hits.find((h) => h.id === picked);
	const moved = kept.moved ?? null;
	// It is moved from where it lies, not from anywhere.
	const here = { from_left: u.typed(out?.from_left_m ?? 1, 2), from_low: u.typed(out?.from_low_m ?? 1, 2), why: "" };
	return (
		<Beside>
			<Stack $gap={6}>
				{svg && <Pad name={kept.id} svg={svg} onMark={mark} />}
				<Soft>
					Tap where a hit lies. By keys: arrows, then Enter for a hit, D for a doubtful one, N for what is no hail. Filled is
					sure, a ring doubtful, a cross no hail.
				</Soft>
			</Stack>
			<Stack $gap={8}>
				<h2>
					{kept.id}, {slope?.label ?? "a slope that is no longer there"}
				</h2>
				<p>
					{out?.words} <Soft>{out?.place_words}.</Soft>
				</p>
				{(out?.problem ?? list.wrong(kept.id, "slope")) && <p role="alert">{out?.problem ?? list.wrong(kept.id, "slope")}</p>}
				<Columns>
					<Chooser
						label="Looked at"
						choices={HOW.filter((h) => h.id !== "not-reached")}
						value={kept.how ?? "hand"}
						onChange={(h) => h && set({ how: h as Square["how"] })}
					/>
					<Field label="Wide" {...list.text(kept, "wide")} />
					<Field label="High, up the slope" {...list.text(kept, "high")} />
					<NumberBox
						label="Hits counted without their places"
						value={kept.unplaced ?? 0}
						least={0}
						onChange={(n) => set({ unplaced: n ?? 0, counted: true })}
					/>
					<Field label="The largest of them" {...list.text(kept, "largest")} />
				</Columns>
				<Row $gap={8}>
					<Tick value={kept.counted ?? false} onChange={(counted) => set({ counted })}>
						Counted to the end
					</Tick>
					<QuietButton onPress={() => set({ moved: moved ? null : here }, moved !== null)}>
						{moved ? "Put it back where it was drawn" : "Move it, with a reason"}
					</QuietButton>
					<QuietButton onPress={() => list.remove(kept.id)}>Take the square out</QuietButton>
				</Row>
				{moved && (
					<Columns>
						{(["from_left", "from_low", "why"] as const).map((part) => (
							<Field
								key={part}
								label={{ from_left: "From the left end", from_low: "Up from the low edge", why: "Why it was moved" }[part]}
								value={moved[part]}
								onChange={(x) => set({ moved: { ...moved, [part]: x } }, false)}
								onBlur={() => editing.keep()}
								error={list.wrong(kept.id, `moved.${part}`)}
							/>
						))}
					</Columns>
				)}
				<FromPicture
					view={view}
					square={kept.id}
					onTaken={(p, found) => set({ hits: withMarksOf(hits, p, found), counted: true })}
				/>
				{hits.length > 0 && (
					<Row $gap={6} role="group" aria-label="Marks">
						{hits.map((h) => (
							<PlainButton key={h.id} aria-pressed={h.id === picked} onPress={() => pick(h.id === picked ? null : h.id)}>
								{h.id}
							</PlainButton>
						))}
					</Row>
				)}
				{hit && (
					<OneMark
						hit={hit}
						page={page}
						words={out?.marks.find((m) => m.id === hit.id)?.words}
						wrong={(f) => list.wrong(kept.id, `hits.${hit.id}.${f}`)}
						onSet={(part, now) => set({ hits: hits.map((h) => (h.id === hit.id ? { ...h, ...part } : h)) }, now)}
						onKeep={() => editing.keep()}
						onRemove={() => set({ hits: hits.filter((h) => h.id !== hit.id) })}
					/>
				)}
			</Stack>
		</Beside>
	);
}

interface FromPictureProps {
	view: PartProps["view"];
	square: string;
	onTaken: (picture: string, hits: Hit[]) => void;
}

/** Hits from the marks of a picture: of a drone, a pole, or taken square on. */
function FromPicture({ view, square, onTaken }: FromPictureProps) {
	const [picture, choose] = useState("");
	const take = useMutation({
		mutationFn: () => marksOf(view.job.id, square, picture),
		onSuccess: (got) => {
			if (got.hits.length > 0) onTaken(picture, got.hits);
			say(got.words, { wrong: got.hits.length === 0 });
		},
		onError: (e) => say(e.message, { wrong: true }),
	});
	const marked = view.pictures.filter((p) => (p.body.marks ?? []).length > 0);
	if (marked.length === 0)
		return <Soft>A picture of the square can be counted as well: put rings on it, on the Round, then take its marks here.</Soft>;
	return (
		<Row $gap={8}>
			<Chooser
				label="A marked picture"
				choices={marked.map((p) => ({ id: p.id, name: p.body.caption || p.body.name || p.id }))}
				value={picture}
				onChange={(p) => choose(p ?? "")}
				placeholder="Choose a picture"
			/>
			<QuietButton isDisabled={picture === "" || take.isPending} onPress={() => take.mutate()}>
				Take its marks as hits
			</QuietButton>
		</Row>
	);
}

interface MarkProps {
	hit: Hit;
	page: PartProps["page"];
	words: string | undefined;
	wrong: (field: string) => string | undefined;
	onSet: (part: Partial<Hit>, now?: boolean) => void;
	onKeep: () => void;
	onRemove: () => void;
}

/** One mark: what it is, how large, and the signs that tell it from what looks like it. */
function OneMark({ hit, page, words, wrong, onSet, onKeep, onRemove }: MarkProps) {
	const signs = hit.signs ?? {};
	const say = (id: string, state: string | null) => {
		const { [id]: _, ...rest } = signs;
		onSet({ signs: state ? { ...rest, [id]: state } : rest }, true);
	};
	return (
		<Stack $gap={6} role="group" aria-label={`Mark ${hit.id}`}>
			<p>
				<b>{hit.id}</b> {words}
			</p>
			<Columns>
				<Chooser
					label="What it is"
					choices={KINDS}
					value={hit.kind ?? "bruise"}
					onChange={(k) => k && onSet({ kind: k as Hit["kind"] }, true)}
				/>
				<Field
					label="Size"
					value={hit.size ?? ""}
					onChange={(size) => onSet({ size }, false)}
					onBlur={onKeep}
					error={wrong("size")}
				/>
			</Columns>
			{hit.kind !== "other" && (
				<Columns>
					{page.signs.map((s) => (
						<Chooser
							key={s.id}
							label={s.words}
							choices={[
								{ id: "", name: "Not looked at" },
								...s.states.map((id, k) => ({ id, name: s.state_words[k]?.replace(/^./, (x) => x.toUpperCase()) ?? id })),
							]}
							value={signs[s.id] ?? ""}
							onChange={(state) => say(s.id, state)}
						/>
					))}
				</Columns>
			)}
			<Row $gap={8}>
				{hit.kind !== "other" && Object.keys(signs).length === 0 && (
					<Tick value={hit.unsure ?? false} onChange={(unsure) => onSet({ unsure }, true)}>
						Not sure
					</Tick>
				)}
				<QuietButton onPress={onRemove}>Take the mark out</QuietButton>
			</Row>
		</Stack>
	);
}
