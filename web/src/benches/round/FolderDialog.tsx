import { useRef, useState } from "react";
import { FileTrigger } from "react-aria-components";
import styled from "styled-components";
import type { Fault } from "../../api/client";
import { type Attached, type JobView, useAttach, useSavePicture } from "../../api/queries";
import { MainButton, PlainButton } from "../../design/buttons";
import { Dialog } from "../../design/Dialog";
import { Row, Soft, Stack } from "../../design/layout";
import { hairline, size, tone } from "../../design/tokens";

const List = styled.ul`max-height: 46vh; overflow: auto; font-size: ${size.small}; li { border-top: ${hairline}; padding: 3px 0; }`;
const Bar = styled.progress`width: 100%; accent-color: ${tone.verdigris};`;

interface Done {
	name: string;
	attached?: Attached;
	wrong?: string;
}

const READABLE = /\.(jpe?g|png|webp)$/i;

/** A whole folder, one picture after the other. Stopped at any time; read in again, it goes on where it was. */
export function FolderDialog({ view, onClose }: { view: JobView; onClose: () => void }) {
	const attach = useAttach(view.job.id);
	const save = useSavePicture(view.job.id);
	const [done, setDone] = useState<Done[]>([]);
	const [all, setAll] = useState(0);
	const [running, setRunning] = useState(false);
	const stop = useRef(false);
	const read = async (files: File[]) => {
		const pictures = files.filter((f) => READABLE.test(f.name)).sort((a, b) => a.name.localeCompare(b.name));
		stop.current = false;
		setDone([]);
		setAll(pictures.length);
		setRunning(true);
		for (const file of pictures) {
			if (stop.current) break;
			try {
				const attached = await attach.mutateAsync({ file });
				setDone((d) => [...d, { name: file.name, attached }]);
			} catch (e) {
				// One that cannot be read is told; the rest go in.
				setDone((d) => [...d, { name: file.name, wrong: (e as Fault).message }]);
			}
		}
		setRunning(false);
	};
	const here = done.filter((d) => d.attached?.duplicate).length;
	const wrong = done.filter((d) => d.wrong && !d.attached).length;
	const proposed = done.flatMap((d) =>
		d.attached && !d.attached.picture.body.note_id && d.attached.proposal.note_id ? [d.attached] : [],
	);
	const sort = async () => {
		setRunning(true);
		for (const a of proposed) {
			const note = view.notes.find((n) => n.id === a.proposal.note_id);
			const p = a.picture;
			const body = {
				caption: p.body.caption ?? "",
				note_id: a.proposal.note_id ?? null,
				place: note?.body.place ?? null,
				marks: p.body.marks ?? [],
				range: p.body.range ?? null,
			};
			try {
				await save.mutateAsync({ id: p.id, base: p.rev, body });
				setDone((d) => d.filter((x) => x.attached !== a));
			} catch (e) {
				// One that cannot be put there is told, and stays to be tried again; the rest go on.
				setDone((d) => d.map((x) => (x.attached === a ? { ...x, wrong: (e as Fault).message } : x)));
			}
		}
		setRunning(false);
	};
	const title = (id: string | null | undefined) => view.findings.find((f) => f.note_id === id)?.title;
	return (
		<Dialog title="A folder of pictures" isOpen onClose={onClose} wide>
			<Stack>
				<Soft>
					Pictures are sorted by the compass heading and the time the camera wrote into them. What is here already is not kept
					twice, so a folder can be read in again.
				</Soft>
				<Row>
					<FileTrigger acceptDirectory onSelect={(list) => void read(Array.from(list ?? []))}>
						<MainButton isDisabled={running}>Choose the folder</MainButton>
					</FileTrigger>
					<FileTrigger
						allowsMultiple
						acceptedFileTypes={["image/jpeg", "image/png", "image/webp"]}
						onSelect={(list) => void read(Array.from(list ?? []))}
					>
						<PlainButton isDisabled={running}>Choose pictures</PlainButton>
					</FileTrigger>
					{running && (
						<PlainButton
							onPress={() => {
								stop.current = true;
							}}
						>
							Stop
						</PlainButton>
					)}
				</Row>
				{all > 0 && (
					<>
						<Bar value={done.length} max={all} aria-label="Pictures read" />
						<p role="status">
							{done.length} of {all} read
							{here > 0 && `, ${here} were here already`}
							{wrong > 0 && `, ${wrong} could not be read`}
							{!running && done.length < all && ". Stopped; choose the folder again to go on."}
						</p>
					</>
				)}
				{proposed.length > 0 && !running && (
					<MainButton onPress={() => void sort()}>
						Put {proposed.length === 1 ? "one picture" : `${proposed.length} pictures`} with the notes proposed
					</MainButton>
				)}
				<List>
					{done.map((d, i) => (
						<li key={`${i.toString()} ${d.name}`}>
							<b>{d.name}</b>{" "}
							{d.wrong ? (
								<span style={{ color: tone.ochre }}>{d.wrong}</span>
							) : (
								<Soft>
									{d.attached?.duplicate ? "here already" : "kept"}
									{d.attached?.proposal.note_id && ` · proposed: ${title(d.attached.proposal.note_id)}`}
									{d.attached?.proposal.why && ` · ${d.attached.proposal.why}`}
								</Soft>
							)}
						</li>
					))}
				</List>
			</Stack>
		</Dialog>
	);
}
