import { useEffect, useRef, useState } from "react";
import { Button, DropZone, type FileDropItem } from "react-aria-components";
import { useNavigate, useOutletContext } from "react-router";
import styled from "styled-components";
import { type JobView, pictureUrl, useAttach } from "../../api/queries";
import { FACES, useWhere, ZONES } from "../../app/where";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Gauge } from "../../design/Gauge";
import { Hazard, Row, Soft } from "../../design/layout";
import { at, corner, font, hairline, line, size, target, tone } from "../../design/tokens";
import { byCell, type NotedFinding, reportOf, standing } from "../../parts/note/cells";
import { NoteDialog } from "../../parts/note/NoteDialog";
import { PictureDialog } from "../../parts/note/PictureDialog";
import { Counted } from "./Counted";
import { FolderDialog } from "./FolderDialog";
import { LeftDialog } from "./LeftDialog";
import { Section } from "./Section";

const Drop = styled(
	DropZone,
)`outline: none; border-radius: ${corner}; &[data-drop-target] { outline: 3px dashed ${tone.copper}; outline-offset: 6px; }`;
const Zones = styled.ol`border-top: ${line}; margin-top: 12px;`;
const Zone = styled.li<{ $chosen: boolean }>`
	display: grid;
	grid-template-columns: 72px minmax(0, 1fr);
	gap: 0 12px;
	padding: 6px 6px 6px 0;
	border-bottom: ${hairline};
	border-left: 4px solid ${(p) => (p.$chosen ? tone.copper : "transparent")};
	padding-left: 8px;
	scroll-margin: 60px 0 20px;
	> svg { margin-top: 6px; }
	${at.phone} { grid-template-columns: minmax(0, 1fr); > svg { display: none; } }
`;
const Heading = styled(Button)`
	background: none;
	border: 0;
	padding: 0;
	min-height: ${target};
	font: 600 ${size.large}/1.2 ${font.text};
	color: ${tone.ink};
	cursor: pointer;
	text-align: left;
	display: flex;
	flex-wrap: wrap;
	gap: 2px 12px;
	align-items: baseline;
	align-content: center;
`;
const Noted = styled(Button)`
	display: grid;
	grid-template-columns: 26px minmax(0, 1fr) minmax(0, 190px) 80px;
	gap: 12px;
	align-items: center;
	width: 100%;
	min-height: 54px;
	padding: 4px 6px;
	border: 0;
	border-top: ${hairline};
	background: none;
	color: inherit;
	font: inherit;
	text-align: left;
	cursor: pointer;
	&[data-hovered] { background: ${tone.plasterLow}; }
	b { font-weight: 600; }
	small { display: block; font-size: ${size.small}; color: ${tone.inkSoft}; }
	img { width: 76px; height: 48px; object-fit: cover; border: 1px solid ${tone.inkSoft}; display: block; }
	${at.phone} { grid-template-columns: 22px minmax(0, 1fr) 60px; > :nth-child(3) { display: none; } img { width: 56px; height: 42px; } }
`;
const Loose = styled.ul`display: flex; flex-wrap: wrap; gap: 10px; img { height: 84px; display: block; border: 1px solid ${tone.inkSoft}; } button { background: none; border: 0; padding: 0; cursor: pointer; color: inherit; font: inherit; text-align: left; }`;

function NoteRow({ view, item, onOpen }: { view: JobView; item: NotedFinding; onOpen: () => void }) {
	const { finding: f, note } = item;
	const picture = view.pictures.find((p) => p.body.note_id === note.id);
	const words = (note.body.text ?? "").trim();
	const good = f.kind === "good";
	return (
		<li>
			<Noted onPress={onOpen}>
				<Gauge ticks={f.ticks} hazard={f.hazard} />
				<span>
					<b>{f.title}</b>
					<small>
						{f.hazard && <Hazard>Hazard · </Hazard>}
						{good ? <span style={{ color: tone.verdigris }}>Done right</span> : f.urgency_words}
						{note.body.place.station && !words.includes(note.body.place.station) && ` · ${note.body.place.station}`}
						{f.remarks.length > 0 && ` · ${f.remarks.join(", ")}`}
						{words && words !== f.title && ` · “${words}”`}
					</small>
				</span>
				<span>
					{f.judged && f.judged.verdict !== "meets" && <small style={{ color: tone.ink }}>{f.judged.sum}</small>}
					{f.measures.map((m) => (
						<small key={m} style={{ color: tone.ink }}>
							{m}
						</small>
					))}
				</span>
				{picture ? (
					<img
						src={pictureUrl(view.job.id, picture.id, "thumb")}
						alt={picture.body.caption || picture.body.name}
						width={76}
						height={48}
					/>
				) : (
					<span />
				)}
			</Noted>
		</li>
	);
}

/** The walk: one face from the ridge to the ground, or the inside. */
export function Round() {
	const view = useOutletContext<JobView>();
	const where = useWhere();
	const attach = useAttach(view.job.id);
	const [note, setNote] = useState<string | null>(null);
	const [picture, setPicture] = useState<string | null>(null);
	const [left, setLeft] = useState(false);
	const [folder, setFolder] = useState(false);
	const navigate = useNavigate();
	const todo = view.left[0]?.left.length ?? 0;
	const cells = byCell(view);
	const zones = useRef<HTMLOListElement>(null);
	const walked = useRef(false);
	// biome-ignore lint/correctness/useExhaustiveDependencies: it is the change of place that moves the page
	useEffect(() => {
		if (walked.current) zones.current?.querySelector("[data-chosen=true]")?.scrollIntoView({ block: "nearest" });
		walked.current = true;
	}, [where.cell]);
	const [face = "front", zone] = where.cell.split(".");
	const inside = !zone;
	const label = view.wheel.labels.find((l) => l.face === face);
	const here = inside ? ["inside"] : ZONES.map((z) => `${face}.${z}`);
	const noted = here.flatMap((c) => cells.get(c) ?? []);
	const open = here.filter((c) => reportOf(view, c)?.state === "untouched" && reportOf(view, c)?.expected).length;
	const ofDetail = new Set(view.walls?.details?.flatMap((d) => d.pictures ?? []));
	const loose = view.pictures.filter((p) => !p.body.note_id && !ofDetail.has(p.id));
	const counts = [
		noted.length === 0 ? "Nothing noted yet" : noted.length === 1 ? "One note" : `${noted.length} notes`,
		open === 0 ? "every height looked at" : open === 1 ? "one height still to look at" : `${open} heights still to look at`,
	];

	const drop = async (items: FileDropItem[]) => {
		for (const item of items) await attach.mutateAsync({ file: await item.getFile() }).catch(() => undefined);
	};
	return (
		<Drop
			aria-label="Drop pictures here"
			getDropOperation={() => "copy"}
			onDrop={(e) => void drop(e.items.filter((i): i is FileDropItem => i.kind === "file"))}
		>
			<Row $between>
				<div>
					<h1>{inside ? "Inside" : `${label?.text} face`}</h1>
					<Soft>
						{counts.join(", ")}. {label?.direction && !inside && `Faces ${label.direction}.`}
					</Soft>
				</div>
				<Row $gap={4}>
					{FACES.map((f) => (
						<QuietButton key={f} aria-pressed={f === face && !inside} onPress={() => where.setCell(`${f}.${zone ?? "roof"}`)}>
							{f === face && !inside ? (
								<b>{view.wheel.labels.find((l) => l.face === f)?.text}</b>
							) : (
								view.wheel.labels.find((l) => l.face === f)?.text
							)}
						</QuietButton>
					))}
					<QuietButton aria-pressed={inside} onPress={() => where.setCell("inside")}>
						{inside ? <b>Inside</b> : "Inside"}
					</QuietButton>
				</Row>
			</Row>
			<Zones ref={zones} aria-label="From the ridge to the ground">
				{here.map((cell) => {
					const report = reportOf(view, cell);
					const list = cells.get(cell) ?? [];
					const chosen = cell === where.cell;
					return (
						<Zone key={cell} $chosen={chosen} data-chosen={chosen}>
							<Section zone={cell.split(".")[1] ?? "inside"} />
							<div>
								<Row $between $gap={6}>
									<Heading onPress={() => where.setCell(cell)} aria-pressed={chosen}>
										<span>{report?.name.replace(/^[^,]+, /, "").replace(/^./, (c) => c.toUpperCase())}</span>
										<Soft>{standing(view, cell, list)}</Soft>
									</Heading>
								</Row>
								<Counted view={view} cell={cell} />
								<ul>
									{list.map((item) => (
										<NoteRow key={item.note.id} view={view} item={item} onOpen={() => setNote(item.note.id)} />
									))}
								</ul>
							</div>
						</Zone>
					);
				})}
			</Zones>
			<Row $gap={8} style={{ marginTop: 14 }}>
				<PlainButton onPress={() => setLeft(true)}>What is left ({todo})</PlainButton>
				<PlainButton onPress={() => navigate("../walk", { relative: "path" })}>Read in a recorded walk</PlainButton>
				<PlainButton onPress={() => setFolder(true)}>Read in a folder of pictures</PlainButton>
			</Row>
			{view.wanted_pictures.length > 0 && (
				<section aria-label="Pictures still wanted" style={{ marginTop: 18 }}>
					<h2>Pictures still wanted</h2>
					<Soft>What cannot wait is shown twice: close, for what it is, and wide, for where it is.</Soft>
					<ul>
						{view.wanted_pictures.map((w) => {
							const f = view.findings.find((x) => x.note_id === w.note_id);
							return (
								<li key={w.note_id}>
									<QuietButton onPress={() => setNote(w.note_id)}>{f?.title}</QuietButton>
									<Soft>
										{f?.place}: {w.missing}
									</Soft>
								</li>
							);
						})}
					</ul>
				</section>
			)}
			{loose.length > 0 && (
				<section aria-label="Pictures without a note" style={{ marginTop: 20 }}>
					<h2>Pictures without a note</h2>
					<Soft>Open one to put it with a note.</Soft>
					<Loose>
						{loose.map((p) => (
							<li key={p.id}>
								<Button onPress={() => setPicture(p.id)}>
									<img src={pictureUrl(view.job.id, p.id, "thumb")} alt={p.body.caption || p.body.name} />
									<Soft>{p.body.proposed_face ? `looks like the ${p.body.proposed_face} face` : p.body.name}</Soft>
								</Button>
							</li>
						))}
					</Loose>
				</section>
			)}
			{note && view.notes.some((n) => n.id === note) && (
				<NoteDialog view={view} id={note} onClose={() => setNote(null)} onPicture={(p) => setPicture(p)} />
			)}
			{picture && view.pictures.some((p) => p.id === picture) && (
				<PictureDialog view={view} id={picture} onClose={() => setPicture(null)} />
			)}
			{left && <LeftDialog view={view} onClose={() => setLeft(false)} />}
			{folder && <FolderDialog view={view} onClose={() => setFolder(false)} />}
		</Drop>
	);
}
