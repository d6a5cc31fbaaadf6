import { useState } from "react";
import { Button, Menu, MenuItem, MenuTrigger, Popover } from "react-aria-components";
import styled from "styled-components";
import { type Item, type JobView, saveItem, useChoices, useCountItems, useDeleteItem } from "../../api/queries";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Tick } from "../../design/choices";
import { Dialog } from "../../design/Dialog";
import { Field } from "../../design/fields";
import { Row, Soft, Stack } from "../../design/layout";
import { corner, font, line, size, target, tone } from "../../design/tokens";
import { Clashes } from "../../parts/draft/Clashes";
import { useClosing } from "../../parts/draft/useClosing";
import { useDraft } from "../../parts/draft/useDraft";
import { UnitBox } from "../../parts/UnitBox";

const Chip = styled(Button)<{ $open: boolean }>`
	min-width: ${target};
	min-height: ${target};
	padding: 0 10px;
	border: 1.5px ${(p) => (p.$open ? "dashed" : "solid")} ${tone.ink};
	border-radius: ${corner};
	background: ${tone.plaster};
	color: ${tone.ink};
	font: 600 ${size.small}/1 ${font.figures};
	cursor: pointer;
	&[data-hovered] { background: ${tone.plasterLow}; }
`;
const Box = styled(
	Popover,
)`background: ${tone.plaster}; border: ${line}; border-radius: ${corner}; box-shadow: 0 6px 20px rgb(0 0 0 / 0.22);`;
const Choice = styled(
	MenuItem,
)`min-height: ${target}; padding: 8px 14px; cursor: pointer; display: flex; align-items: center; &[data-focused] { background: ${tone.plasterLow}; outline: 2px solid ${tone.copper}; outline-offset: -2px; }`;

// Kept short: a long list would lie over the button that opened it.
const SEVERAL: Item["kind"][] = ["window", "penetration"];
const HERE: Record<string, Item["kind"][]> = { openings: ["window", "door", "penetration"], edge: ["gutter-run"] };

/** What was counted at a height of a face, each a place of its own; and one gesture to count one more. */
export function Counted({ view, cell }: { view: JobView; cell: string }) {
	const [face, zone = ""] = cell.split(".");
	const count = useCountItems(view.job.id);
	const choices = useChoices();
	const [open, setOpen] = useState<string | null>(null);
	const kinds = HERE[zone];
	if (!kinds) return null;
	const items = view.items.filter((i) => i.body.face === face && kinds.includes(i.body.kind));
	const name = (k: Item["kind"]) => choices?.items.find((c) => c.value === k)?.name ?? k;
	const asked = (n: string) => view.expectations.some((e) => e.face === face && e.item === n && e.state === "open");
	const chosen = view.items.find((i) => i.id === open);
	return (
		<Row $gap={6}>
			{items.map((i) => (
				<Chip
					key={i.id}
					$open={asked(i.body.name)}
					onPress={() => setOpen(i.id)}
					aria-label={`${name(i.body.kind)} ${i.body.name}${i.body.label ? `, ${i.body.label}` : ""}${asked(i.body.name) ? ", still to look at" : ""}`}
				>
					{i.body.name}
				</Chip>
			))}
			<MenuTrigger>
				<QuietButton>Count ▾</QuietButton>
				<Box>
					<Menu
						onAction={(k) => {
							const [kind, n] = String(k).split(" ");
							count.mutate({ face: face as Item["face"], kind: kind as Item["kind"], count: Number(n) });
						}}
					>
						{kinds.flatMap((k) =>
							(SEVERAL.includes(k) ? [1, 4] : [1]).map((n) => (
								<Choice key={`${k} ${n}`} id={`${k} ${n}`} textValue={`${n} ${name(k)}`}>
									{n === 1 ? `One ${name(k)}` : `${n} ${name(k)}s`}
								</Choice>
							)),
						)}
					</Menu>
				</Box>
			</MenuTrigger>
			{chosen && <ItemDialog view={view} id={chosen.id} rev={chosen.rev} item={chosen.body} onClose={() => setOpen(null)} />}
		</Row>
	);
}

function ItemDialog({
	view,
	id,
	rev,
	item,
	onClose,
}: {
	view: JobView;
	id: string;
	rev: number;
	item: Item;
	onClose: () => void;
}) {
	const job = view.job.id;
	const remove = useDeleteItem(job);
	const editing = useDraft<Item>(job, `item ${id}`, { value: item, rev }, saveItem(job, id));
	const { draft, standing } = editing;
	const set = (change: Partial<Item>) => editing.type({ ...draft, ...change });
	const seen = draft.seen ?? [];
	const keepAndClose = useClosing(editing, onClose);
	const asked = view.expectations.filter((e) => e.face === item.face && e.item === item.name);
	const notes = view.notes.filter((n) => n.body.place.face === item.face && n.body.place.station?.includes(item.name));
	return (
		<Dialog title={`${item.name}, ${item.face} face`} isOpen onClose={onClose}>
			<Stack>
				<Clashes draft={editing} what="This one" />
				{standing === "waiting" && <p role="status">{editing.fault}</p>}
				<Field
					label="What people call it"
					value={draft.label ?? ""}
					onChange={(label) => set({ label })}
					error={editing.wrong.name}
					placeholder="for example kitchen window"
				/>
				<UnitBox
					label="From the left end of the face"
					of="along"
					value={draft.from_left_m ?? null}
					least={0}
					onChange={(from_left_m) => set({ from_left_m })}
				/>
				{asked.length > 0 && (
					<Stack $gap={2}>
						<b>Asked for on this visit</b>
						{asked.map((e) =>
							e.state !== "open" && !seen.includes(e.key) ? (
								<p key={e.key}>
									{e.words} <Soft>{e.state === "limited" ? "could not be seen" : "answered by a note"}</Soft>
								</p>
							) : (
								<Tick
									key={e.key}
									value={seen.includes(e.key)}
									onChange={(v) => set({ seen: v ? [...seen, e.key] : seen.filter((k) => k !== e.key) })}
								>
									{e.words}: looked at, nothing to note
								</Tick>
							),
						)}
					</Stack>
				)}
				{notes.map((n) => (
					<Soft key={n.id}>“{n.body.text}”</Soft>
				))}
				<Soft>
					Start a note line with {item.name} to put it here: “{item.name} sealant open”.
				</Soft>
				<Row $between>
					<MainButton onPress={keepAndClose}>Keep</MainButton>
					<PlainButton onPress={() => remove.mutate({ id, base: rev }, { onSuccess: onClose })}>Take off the count</PlainButton>
				</Row>
			</Stack>
		</Dialog>
	);
}
