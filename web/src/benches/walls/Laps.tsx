import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { pictureUrl, useAttach } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Finder, Tick } from "../../design/choices";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Columns, Folded, Row, Soft, Stack } from "../../design/layout";
import { hairline, line, tone } from "../../design/tokens";
import { PictureDialog } from "../../parts/note/PictureDialog";
import { Offered } from "../../parts/Offered";
import { RowButton } from "../../parts/Table";
import { useShown } from "../../parts/units";
import { FACES, type FaceKey, nextId, type PartProps, rowsOf, type Walls } from "./kinds";

type Detail = Schemas["DetailRecord"];
type Account = Schemas["DetailAccount"];

const Two = styled.div`
	display: grid;
	grid-template-columns: minmax(190px, 1fr) minmax(0, 3.4fr);
	gap: 8px 22px;
	align-items: start;
	@media (max-width: 1000px) { grid-template-columns: minmax(0, 1fr); }
	li[data-chosen="true"] { background: ${tone.plasterLow}; box-shadow: inset 4px 0 0 ${tone.copper}; }
	ul[aria-label="Details"] li { border-bottom: ${hairline}; padding: 2px 8px; }
`;

const Verdict = styled.p`border-left: 6px solid ${tone.inkSoft}; padding: 4px 12px; max-width: 84ch; &[data-verdict="right"] { border-left-color: ${tone.verdigris}; } &[data-verdict="wrong"] { border-left-color: ${tone.ink}; }`;

const Turns = styled.ul`
	display: grid;
	grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
	gap: 2px 14px;
	button { text-align: left; }
	li[data-wrong="true"] { box-shadow: inset 3px 0 0 ${tone.ink}; padding-left: 4px; }
`;

const VERDICTS: { [v in NonNullable<Account["verdict"]>]: string } = {
	right: "right",
	"only-while-sealed": "right only while sealed",
	wrong: "wrong",
};
const WINDS = [
	{ id: "still", name: "Straight down" },
	{ id: "from-left", name: "Wind from the left" },
	{ id: "from-right", name: "Wind from the right" },
];

/** Details with their laps: each turned by a press, with the drops run again at once. */
export function Laps(props: PartProps) {
	const { page, editing, view } = props;
	const list = rowsOf<Walls, "details", Detail>(editing, "details");
	const details = list.rows;
	const [chosen, setChosen] = useState<string | null>(details[0]?.id ?? null);
	const at = Math.max(
		0,
		details.findIndex((d) => d.id === chosen),
	);
	const detail = details[at];
	const add = (template: string | null) => {
		if (!template) return;
		const id = nextId("L", details);
		const face = (view.job.body.brief?.visit === "before-cladding" && detail?.face) || "front";
		list.add({
			id,
			template: template as Detail["template"],
			face,
			at: "",
			sizes: {},
			faults: [],
			turned: [],
			wind: "still",
			covered: false,
			installed: [],
			text: "",
			pictures: [],
		});
		setChosen(id);
	};
	return (
		<Two>
			<Stack $gap={8}>
				<ul aria-label="Details">
					{details.map((d) => {
						const a = page.account.details.find((x) => x.id === d.id);
						return (
							<li key={d.id} data-chosen={d.id === detail?.id}>
								<RowButton type="button" aria-pressed={d.id === detail?.id} onClick={() => setChosen(d.id)}>
									{a?.name ?? d.id}
									<Soft>{a?.verdict ? VERDICTS[a.verdict] : "cannot be worked out"}</Soft>
								</RowButton>
							</li>
						);
					})}
				</ul>
				<Finder
					label="Add a detail"
					choices={page.account.forms.map((f) => ({ id: f.template, name: f.name }))}
					value={null}
					onChange={add}
				/>
			</Stack>
			{detail ? (
				<One
					key={detail.id}
					{...props}
					detail={detail}
					account={page.account.details.find((a) => a.id === detail.id)}
					svg={page.drawings[page.account.details.findIndex((a) => a.id === detail.id)]}
				/>
			) : (
				<p>
					Choose a detail: how its pieces lie is drawn, and where every drop goes that runs down it, with sound seals and with
					aged ones.
				</p>
			)}
		</Two>
	);
}

interface OneProps extends PartProps {
	detail: Detail;
	account: Account | undefined;
	svg: string | undefined;
}

function One({ view, page, editing, detail, account, svg }: OneProps) {
	const u = useShown();
	const form = page.account.forms.find((f) => f.template === detail.template);
	const list = rowsOf<Walls, "details", Detail>(editing, "details");
	const wrong = (field: string) => list.wrong(detail.id, field);
	const turned = detail.turned ?? [];
	const set = (part: Partial<Detail> | ((now: Detail) => Partial<Detail>), now = true) => list.set(detail.id, part, now);
	const turn = (outer: string, inner: string) => {
		const back = turned.some((t) => t.outer === outer && t.inner === inner);
		const rest = turned.filter((t) => !(t.outer === outer && t.inner === inner));
		set({ turned: back ? rest : [...rest, { outer: inner, inner: outer }] });
	};
	const pictures = view.pictures.filter((p) => {
		const note = view.notes.find((n) => n.id === p.body.note_id);
		return (
			note &&
			account &&
			note.body.place.face === account.place.face &&
			note.body.place.zone === account.place.zone &&
			note.body.place.station === account.place.station
		);
	});
	return (
		<Stack role="group" aria-label={account?.name ?? detail.id}>
			{account?.problem && (
				<Row $gap={8} role="alert">
					<b>{account.problem}</b>
					{turned.length > 0 && <QuietButton onPress={() => set({ turned: [] })}>Turn all laps back</QuietButton>}
				</Row>
			)}
			{account?.verdict && <Verdict data-verdict={account.verdict}>{account.sentence}</Verdict>}
			{svg && (
				<Drawing
					svg={svg}
					most="420px"
					onChoose={(c) => {
						const [outer, inner] = c.id.split(">");
						if (c.kind === "piece" && outer && inner) turn(outer, inner);
					}}
				/>
			)}
			<Soft>
				Blue is water: whole where it runs in the open, dotted where it runs behind something, a cross where it gets in, a disc
				where it is held.
			</Soft>
			{account?.mending.map((m) => (
				<p key={m.words}>{m.words}</p>
			))}
			{account?.verdict === "wrong" && account.mending.length === 0 && account.aged > 0 && (
				<p>No turning of up to three laps ends it: something is missing or made wrong. Look at its faults below.</p>
			)}
			{account?.too_early && <p>{account.too_early}</p>}
			{account?.offered && <Offered view={view} offered={[account.offered]} name="What may be noted" />}
			<Pictures
				view={view}
				detail={detail}
				name={account?.name ?? detail.id}
				nearby={pictures}
				set={set}
				error={wrong("pictures")}
			/>
			<h2>Turn a lap</h2>
			<Turns aria-label="Laps">
				{account?.laps
					.filter((l) => l.shingled !== null && l.shingled !== undefined)
					.map((l) => (
						<li key={[l.outer, l.inner].sort().join()} data-wrong={l.shingled === false || l.short}>
							<QuietButton onPress={() => turn(l.outer, l.inner)} aria-pressed={l.turned}>
								{l.words}
								{l.shingled === false && ": the lower one lies outside"}
								{l.turned && " (turned)"}
							</QuietButton>
						</li>
					))}
			</Turns>
			<Folded head={`Laps that run sideways (${account?.laps.filter((l) => l.shingled == null).length ?? 0})`}>
				<Turns>
					{account?.laps
						.filter((l) => l.shingled == null)
						.map((l) => (
							<li key={[l.outer, l.inner].sort().join()}>
								<QuietButton onPress={() => turn(l.outer, l.inner)} aria-pressed={l.turned}>
									{l.words}
									{l.turned && " (turned)"}
								</QuietButton>
							</li>
						))}
				</Turns>
			</Folded>
			<Columns>
				<Chooser label="Face" choices={FACES} value={detail.face} onChange={(f) => f && set({ face: f as FaceKey })} />
				<Field
					label="Where on it: W3, R1, under the ledger"
					value={detail.at ?? ""}
					onChange={(x) => set({ at: x }, false)}
					onBlur={() => editing.keep()}
					error={wrong("at")}
				/>
				<Chooser
					label="Water comes"
					choices={WINDS}
					value={detail.wind ?? "still"}
					onChange={(w) => w && set({ wind: w as "still" })}
				/>
				{form?.sizes.map((s) => (
					<Field
						key={s.key}
						label={s.words}
						value={detail.sizes?.[s.key] ?? ""}
						placeholder={u.length(s.usual_m, 2)}
						onChange={(x) => set({ sizes: { ...detail.sizes, [s.key]: x } }, false)}
						onBlur={() => {
							const sizes = Object.fromEntries(Object.entries(detail.sizes ?? {}).filter(([, x]) => x.trim() !== ""));
							set({ sizes });
						}}
						error={wrong(`sizes.${s.key}`)}
					/>
				))}
			</Columns>
			<Faults>
				<legend>Its usual faults</legend>
				{form?.faults.map((f) => {
					const on = detail.faults?.includes(f.key) ?? false;
					return (
						<Tick
							key={f.key}
							value={on}
							onChange={() =>
								set({ faults: on ? (detail.faults ?? []).filter((k) => k !== f.key) : [...(detail.faults ?? []), f.key] })
							}
						>
							{f.words.replace(/^./, (x) => x.toUpperCase())}
						</Tick>
					);
				})}
				<Tick value={detail.covered ?? false} onChange={(covered) => set({ covered })}>
					Already covered
				</Tick>
			</Faults>
			{account?.order && (
				<Folded head="Order of work">
					<p>{account.order}.</p>
					<Field
						label="Put on in this order, as far as it is known: names with commas between"
						value={(detail.installed ?? []).map((p) => p.replaceAll("-", " ")).join(", ")}
						onChange={(x) =>
							set({ installed: x === "" ? [] : x.split(",").map((p) => p.trimStart().replaceAll(" ", "-")) }, false)
						}
						onBlur={() =>
							set({ installed: (detail.installed ?? []).map((p) => p.replace(/^-+|-+$/g, "")).filter((p) => p !== "") })
						}
					/>
				</Folded>
			)}
			<Row $gap={8}>
				{turned.length > 0 && <PlainButton onPress={() => set({ turned: [] })}>Turn all laps back</PlainButton>}
				<QuietButton onPress={() => list.remove(detail.id)}>Take this detail out</QuietButton>
			</Row>
		</Stack>
	);
}

interface PicturesProps {
	view: PartProps["view"];
	detail: Detail;
	name: string;
	/** Pictures of notes at the same place. */
	nearby: PartProps["view"]["pictures"];
	set: (part: Partial<Detail> | ((now: Detail) => Partial<Detail>)) => void;
	error: string | undefined;
}

/** Pictures of a detail: taken here, or taken over from the notes at its place. */
function Pictures({ view, detail, name, nearby, set, error }: PicturesProps) {
	const attach = useAttach(view.job.id);
	const [open, setOpen] = useState<string | null>(null);
	const kept = detail.pictures ?? [];
	const shown = view.pictures.filter((p) => kept.includes(p.id));
	const offered = nearby.filter((p) => !kept.includes(p.id));
	const take = async (file: File | undefined) => {
		const got = file && (await attach.mutateAsync({ file }).catch(() => undefined));
		if (got) set((now) => ({ pictures: [...(now.pictures ?? []), got.picture.id] }));
	};
	const called = (p: (typeof shown)[number]) => p.body.caption || p.body.name || "Picture";
	return (
		<Stack $gap={6} role="group" aria-label={`Pictures of ${name}`}>
			{error && <p role="alert">{error}</p>}
			{shown.length > 0 && (
				<Shelf>
					{shown.map((p) => (
						<li key={p.id}>
							<RowButton type="button" onClick={() => setOpen(p.id)} aria-label={`Open ${called(p)}`}>
								<img src={pictureUrl(view.job.id, p.id, "thumb")} alt={called(p)} />
							</RowButton>
							<QuietButton
								aria-label={`Take ${called(p)} off this detail`}
								onPress={() => set({ pictures: kept.filter((k) => k !== p.id) })}
							>
								Take off
							</QuietButton>
						</li>
					))}
				</Shelf>
			)}
			<Row $gap={8}>
				<label>
					<Soft>{shown.length > 0 ? "Another picture: " : "A picture of it: "}</Soft>
					<input
						type="file"
						accept="image/*"
						aria-label={`Picture of ${name}`}
						onChange={(e) => void take(e.target.files?.[0] ?? undefined)}
					/>
				</label>
				{offered.map((p) => (
					<QuietButton key={p.id} onPress={() => set({ pictures: [...kept, p.id] })}>
						Take “{called(p)}” from the note here
					</QuietButton>
				))}
			</Row>
			{open && view.pictures.some((p) => p.id === open) && <PictureDialog view={view} id={open} onClose={() => setOpen(null)} />}
		</Stack>
	);
}

const Shelf = styled.ul`
	display: flex;
	flex-wrap: wrap;
	gap: 10px;
	img { display: block; height: 120px; width: auto; max-width: 100%; }
`;

const Faults = styled.fieldset`border: 0; border-top: ${line}; padding: 6px 0 0; legend { padding-right: 8px; font-weight: 600; }`;
