import type { Schemas } from "../../api/client";
import { type JobView, type PictureRecord, pictureUrl, said, savePicture, useDeletePicture } from "../../api/queries";
import { ButtonLink, MainButton, PlainButton } from "../../design/buttons";
import { Chooser, Finder } from "../../design/choices";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { Clashes } from "../draft/Clashes";
import { useClosing } from "../draft/useClosing";
import { useDraft } from "../draft/useDraft";
import { Marks } from "./Marks";

const NONE = "none";

/** A picture in full, with its caption and the note it belongs to. */
export function PictureDialog({ view, id, onClose }: { view: JobView; id: string; onClose: () => void }) {
	const record = view.pictures.find((p) => p.id === id);
	return record ? <Open view={view} record={record} onClose={onClose} /> : null;
}

function Open({ view, record, onClose }: { view: JobView; record: PictureRecord; onClose: () => void }) {
	const job = view.job.id;
	const { id, body: p } = record;
	const kept = { value: said(p), rev: record.rev };
	const editing = useDraft<Schemas["PictureChange"]>(job, `picture ${id}`, kept, savePicture(job, id));
	const { draft, standing } = editing;
	const set = (change: Partial<Schemas["PictureChange"]>) => editing.type((now) => ({ ...now, ...change }));
	const remove = useDeletePicture(job);
	const keepAndClose = useClosing(editing, onClose);
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
				<Clashes draft={editing} what="This picture" />
				{standing === "waiting" && <p role="status">{editing.fault}</p>}
				<Marks
					src={pictureUrl(job, id, "display")}
					alt={p.caption || p.name || "Picture"}
					width={p.width}
					height={p.height}
					marks={draft.marks ?? []}
					onChange={(marks) => set({ marks })}
				/>
				<Soft>{facts.join(" · ")}</Soft>
				<Columns>
					<Field
						label="Caption"
						value={draft.caption ?? ""}
						onChange={(caption) => set({ caption })}
						error={editing.wrong.caption}
					/>
					<Finder
						label="Belongs to"
						value={draft.note_id ?? NONE}
						choices={[
							{ id: NONE, name: "No note yet" },
							...notes.map((n) => {
								const f = view.findings.find((x) => x.note_id === n.id);
								return { id: n.id, name: f?.title ?? n.body.text ?? "Note", more: f?.place ?? "" };
							}),
						]}
						onChange={(v) => v && set({ note_id: v === NONE ? null : v })}
					/>
					<Chooser
						label="How near"
						value={draft.range ?? NONE}
						choices={[
							{ id: NONE, name: "Not said" },
							{ id: "close", name: "Close: shows the fault" },
							{ id: "wide", name: "Wide: shows where it is" },
						]}
						onChange={(v) => v && set({ range: v === NONE ? null : (v as Schemas["Range"]) })}
					/>
				</Columns>
				<Row $between>
					<Row>
						<MainButton onPress={keepAndClose}>Keep</MainButton>
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
