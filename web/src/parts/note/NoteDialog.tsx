import { useState } from "react";
import { Button, FileTrigger } from "react-aria-components";
import styled from "styled-components";
import { answer, api, type Fault, type Schemas } from "../../api/client";
import {
	type JobView,
	type Note,
	type NoteRecord,
	pictureUrl,
	saveNote,
	undoIn,
	useAttach,
	useChoices,
	useDeleteNote,
} from "../../api/queries";
import { placeOf } from "../../app/where";
import { MainButton, PlainButton } from "../../design/buttons";
import { Chooser, Finder, Tick } from "../../design/choices";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/fields";
import { Columns, Row, Rule, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { tone } from "../../design/tokens";
import { Clashes } from "../draft/Clashes";
import { useClosing } from "../draft/useClosing";
import { useDraft } from "../draft/useDraft";
import { useHalf } from "../draft/useHalf";
import { cellOf } from "./cells";
import { Sum } from "./Sum";

const Pictures = styled.ul`display: flex; flex-wrap: wrap; gap: 10px; button { padding: 0; border: 1px solid ${tone.inkSoft}; background: none; cursor: pointer; } img { height: 96px; display: block; }`;

const EXTENTS = ["one", "two", "few", "many", "along", "half", "most", "all"];
const CERTAINTIES: [string, string][] = [
	["seen", "Seen"],
	["suspected", "Suspected, not confirmed"],
	["confirmed", "Confirmed"],
	["told", "Told by others"],
];
const KINDS: [string, string][] = [
	["defect", "Something to be dealt with"],
	["good", "Done right"],
	["measurement", "A reading or plain fact"],
	["limitation", "Could not be seen or tried"],
	["remark", "Remark"],
	["side", "For another trade"],
	["recommendation", "Something to do"],
];

/** A note by hand: everything the line was read as can be put right here. */
export function NoteDialog({
	view,
	id,
	onClose,
	onPicture,
}: {
	view: JobView;
	id: string;
	onClose: () => void;
	onPicture: (id: string) => void;
}) {
	const record = view.notes.find((n) => n.id === id);
	return record ? <Open view={view} record={record} onClose={onClose} onPicture={onPicture} /> : null;
}

function Open({
	view,
	record,
	onClose,
	onPicture,
}: {
	view: JobView;
	record: NoteRecord;
	onClose: () => void;
	onPicture: (id: string) => void;
}) {
	const job = view.job.id;
	const id = record.id;
	const finding = view.findings.find((f) => f.note_id === id);
	const choices = useChoices();
	const remove = useDeleteNote(job);
	const attach = useAttach(job);
	const editing = useDraft<Note>(job, `note ${record.id}`, { value: record.body, rev: record.rev }, saveNote(job, record.id));
	const { draft } = editing;
	const [measure, setMeasure] = useHalf(`${job} measure of ${id}`);
	const [wrong, setWrong] = useState<{ field: string; message: string } | null>(null);
	const set = (change: Partial<Note>) => editing.type((now) => ({ ...now, ...change }));
	const place = (change: Partial<Note["place"]>) => set({ place: { ...draft.place, ...change } });
	const facts = draft.facts as NonNullable<Note["facts"]>;
	const pictures = view.pictures.filter((p) => p.body.note_id === id);

	const keepAndClose = useClosing(editing, onClose);
	const addMeasure = async () => {
		try {
			const read = await answer(api.POST("/calc/measure", { body: { text: measure } }));
			editing.type((now) => ({ ...now, measures: [...(now.measures ?? []), read] }));
			setMeasure((typed) => (typed === measure ? "" : typed));
			setWrong(null);
		} catch (e) {
			setWrong({ field: "measure", message: (e as Fault).message });
		}
	};
	const error = (field: string) => (wrong?.field === field ? wrong.message : editing.wrong[field]);
	return (
		<Dialog title={finding?.title ?? "Note"} isOpen onClose={onClose} wide>
			<Stack $gap={14}>
				<Clashes draft={editing} what="This note" />
				{editing.standing === "waiting" && <p role="status">{editing.fault}</p>}
				{finding?.judged && <Sum judged={finding.judged} />}
				<Field label="In your words" rows={2} value={draft.text ?? ""} onChange={(text) => set({ text })} error={error("text")} />
				<Columns>
					<Finder
						label="What it is"
						value={draft.condition ?? null}
						placeholder="No condition; your words stand alone"
						choices={(choices?.conditions ?? []).map((c) => ({ id: c.id, name: c.name, more: `${c.group} · ${c.sees}` }))}
						onChange={(condition) => set({ condition })}
					/>
					<Chooser
						label="Kind"
						value={draft.kind}
						choices={KINDS.map(([k, name]) => ({ id: k, name }))}
						onChange={(kind) => kind && set({ kind: kind as Note["kind"] })}
					/>
					<Chooser
						label="Where"
						value={cellOf(draft.place)}
						choices={view.coverage.cells.map((c) => ({ id: c.cell, name: c.name }))}
						onChange={(cell) => cell && place({ ...placeOf(cell), ...(cell === "inside" ? {} : { room: null, surface: null }) })}
					/>
					<Field
						label="Station along the face"
						value={draft.place.station ?? ""}
						onChange={(station) => place({ station: station || null })}
						placeholder="under the kitchen window"
					/>
					{draft.place.zone === "inside" && (
						<Field label="Room" value={draft.place.room ?? ""} onChange={(room) => place({ room: room || null })} />
					)}
					<Chooser
						label="Extent"
						value={draft.extent ?? null}
						choices={EXTENTS.map((e) => ({ id: e, name: e }))}
						onChange={(e) => set({ extent: e as Note["extent"] & string })}
					/>
					<Chooser
						label="Certainty"
						value={draft.certainty ?? "seen"}
						choices={CERTAINTIES.map(([k, name]) => ({ id: k, name }))}
						onChange={(c) => c && set({ certainty: c as NonNullable<Note["certainty"]> })}
					/>
				</Columns>
				<div>
					<Row>
						{(draft.measures ?? []).map((m, i) => (
							<PlainButton
								key={`${m.text}-${i.toString()}`}
								aria-label={`Take out ${m.text}`}
								onPress={() => set({ measures: (draft.measures ?? []).filter((_, j) => j !== i) })}
							>
								{m.text} ✕
							</PlainButton>
						))}
					</Row>
					<Row style={{ alignItems: "end" }}>
						<Field label="Add a measure" value={measure} onChange={setMeasure} placeholder="6 1/2 in" error={error("measure")} />
						<PlainButton onPress={() => void addMeasure()} isDisabled={!measure.trim()}>
							Add measure
						</PlainButton>
					</Row>
				</div>
				<Rule />
				<h3>When: {finding?.by_hand ? `${finding.urgency_words}, set by hand` : finding?.urgency_words}</h3>
				{finding?.suggestion && (
					<ol>
						{finding.suggestion.reasons.map((r) => (
							<li key={r.text}>
								{r.text}
								{r.effect !== "start" && r.effect !== "stays" && (
									<b> → {choices?.urgencies.find((u) => u.value === r.step)?.name}</b>
								)}
							</li>
						))}
					</ol>
				)}
				<Columns>
					<Tick value={facts.water_active ?? false} onChange={(water_active) => set({ facts: { ...facts, water_active } })}>
						Water is confirmed active
					</Tick>
					<Tick
						value={facts.sensitive_behind ?? false}
						onChange={(sensitive_behind) => set({ facts: { ...facts, sensitive_behind } })}
					>
						Finished room, structure or electrical equipment behind
					</Tick>
					<Tick value={facts.end_of_life ?? false} onChange={(end_of_life) => set({ facts: { ...facts, end_of_life } })}>
						The part is near the end of its life
					</Tick>
					<Tick value={facts.hazard ?? finding?.hazard ?? false} onChange={(hazard) => set({ facts: { ...facts, hazard } })}>
						Someone can be hurt
					</Tick>
				</Columns>
				<Columns>
					<Chooser
						label="Set by hand"
						value={draft.urgency_by_hand?.step ?? "suggested"}
						choices={[
							{ id: "suggested", name: "As suggested" },
							...(choices?.urgencies ?? []).map((u) => ({ id: u.value, name: u.name })),
						]}
						onChange={(step) =>
							set({
								urgency_by_hand:
									!step || step === "suggested"
										? null
										: { step: step as Schemas["Urgency"], reason: draft.urgency_by_hand?.reason ?? "" },
							})
						}
					/>
					{draft.urgency_by_hand && (
						<Field
							label="Because"
							value={draft.urgency_by_hand.reason}
							onChange={(reason) => draft.urgency_by_hand && set({ urgency_by_hand: { ...draft.urgency_by_hand, reason } })}
							error={error("urgency_by_hand")}
						/>
					)}
				</Columns>
				<Rule />
				<Pictures aria-label="Pictures of this note">
					{pictures.map((p) => (
						<li key={p.id}>
							<Button onPress={() => onPicture(p.id)}>
								<img src={pictureUrl(job, p.id, "thumb")} alt={p.body.caption || p.body.name} />
							</Button>
						</li>
					))}
				</Pictures>
				<FileTrigger
					allowsMultiple
					acceptedFileTypes={["image/jpeg", "image/png", "image/webp"]}
					onSelect={async (files) => {
						for (const file of files ?? []) await attach.mutateAsync({ file, note: id }).catch(() => undefined);
					}}
				>
					<PlainButton>Attach pictures to this note</PlainButton>
				</FileTrigger>
				{finding?.recommendation && (
					<p>
						<Soft>
							{finding.cause} {finding.consequence} {finding.recommendation} ({finding.trade})
						</Soft>
					</p>
				)}
				<Row $between>
					<Row>
						<MainButton onPress={keepAndClose}>Keep changes</MainButton>
						{editing.standing !== "kept" && (
							<PlainButton
								onPress={() => {
									editing.drop();
									onClose();
								}}
							>
								Drop what was changed
							</PlainButton>
						)}
					</Row>
					<PlainButton
						onPress={() =>
							remove.mutate(
								{ id, base: record.rev },
								{
									onSuccess: () => {
										onClose();
										say("The note was deleted.", {
											action: { name: "Undo", run: () => void undoIn(job) },
										});
									},
								},
							)
						}
					>
						Delete note
					</PlainButton>
				</Row>
			</Stack>
		</Dialog>
	);
}
