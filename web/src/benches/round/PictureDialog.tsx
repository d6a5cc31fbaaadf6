import { useState } from "react";
import { type JobView, type PictureMark, pictureUrl, useDeletePicture, useSavePicture } from "../../api/queries";
import {
	ButtonLink,
	Chooser,
	Columns,
	Dialog,
	Field,
	Finder,
	MainButton,
	PlainButton,
	Row,
	Soft,
	Stack,
} from "../../design/primitives";
import { Marks } from "./Marks";

const NONE = "none";

/** A picture in full, with its caption and the note it belongs to. */
export function PictureDialog({ view, id, onClose }: { view: JobView; id: string; onClose: () => void }) {
	const job = view.job.id;
	const record = view.pictures.find((p) => p.id === id);
	const save = useSavePicture(job);
	const remove = useDeletePicture(job);
	const [caption, setCaption] = useState(record?.body.caption ?? "");
	const [note, setNote] = useState<string>(record?.body.note_id ?? NONE);
	const [marks, setMarks] = useState<PictureMark[]>(record?.body.marks ?? []);
	const [range, setRange] = useState<string>(record?.body.range ?? NONE);
	if (!record) return null;
	const p = record.body;
	const facts = [
		p.taken_at && `taken ${p.taken_at.replace("T", " ")}`,
		p.heading != null && `camera toward ${Math.round(p.heading)}°`,
		p.proposed_face && `looks like the ${p.proposed_face} face`,
		`${p.width} × ${p.height}`,
		p.has_location && "holds a location, which is taken out of what leaves unless the brief keeps it",
	].filter(Boolean);
	// Notes of the proposed face come first.
	const notes = [...view.notes].sort(
		(a, b) => Number(b.body.place.face === p.proposed_face) - Number(a.body.place.face === p.proposed_face),
	);
	return (
		<Dialog title={p.caption || p.name || "Picture"} isOpen onClose={onClose} wide>
			<Stack>
				<Marks
					src={pictureUrl(job, id, "display")}
					alt={p.caption || p.name || "Picture"}
					width={p.width}
					height={p.height}
					marks={marks}
					onChange={setMarks}
				/>
				<Soft>{facts.join(" · ")}</Soft>
				<Columns>
					<Field label="Caption" value={caption} onChange={setCaption} />
					<Finder
						label="Belongs to"
						value={note}
						choices={[
							{ id: NONE, name: "No note yet" },
							...notes.map((n) => {
								const f = view.findings.find((x) => x.note_id === n.id);
								return { id: n.id, name: f?.title ?? n.body.text ?? "Note", more: f?.place ?? "" };
							}),
						]}
						onChange={(v) => v && setNote(v)}
					/>
					<Chooser
						label="How near"
						value={range}
						choices={[
							{ id: NONE, name: "Not said" },
							{ id: "close", name: "Close: shows the fault" },
							{ id: "wide", name: "Wide: shows where it is" },
						]}
						onChange={(v) => v && setRange(v)}
					/>
				</Columns>
				<Row $between>
					<Row>
						<MainButton
							onPress={() =>
								save.mutate(
									{
										id,
										base: record.rev,
										body: {
											caption,
											note_id: note === NONE ? null : note,
											place: p.place ?? null,
											marks,
											range: range === NONE ? null : (range as "close" | "wide"),
										},
									},
									{ onSuccess: onClose },
								)
							}
						>
							Keep
						</MainButton>
						<ButtonLink href={pictureUrl(job, id, "original")} download={p.name}>
							Download the original
						</ButtonLink>
					</Row>
					<PlainButton onPress={() => remove.mutate({ id, base: record.rev }, { onSuccess: onClose })}>
						Take out of the job
					</PlainButton>
				</Row>
			</Stack>
		</Dialog>
	);
}
