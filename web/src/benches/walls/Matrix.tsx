import { type KeyboardEvent, useState } from "react";
import { Cell, Column, Table as Grid, Row as GridRow, TableBody, TableHeader } from "react-aria-components";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Figures, Row, Soft, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import { font, hairline, line, size, target, tone } from "../../design/tokens";
import { Item } from "../../parts/Item";
import { Offered } from "../../parts/Offered";
import { FACES, type FaceKey, nextId, type PartProps, rowsOf, type Walls } from "./kinds";

type Found = Schemas["WallFound"];

const Sheet = styled.div`
	overflow-x: auto;
	table { border-collapse: collapse; font-size: ${size.small}; width: 100%; }
	th { text-align: left; font-weight: 400; color: ${tone.inkSoft}; padding: 4px 6px; border-bottom: ${line}; vertical-align: bottom; white-space: nowrap; }
	td { padding: 0; border-bottom: ${hairline}; }
	td:first-child { padding: 4px 8px 4px 6px; white-space: nowrap; }
	tr { outline: none; }
	tr[data-focus-visible] { outline: 2px solid ${tone.copper}; outline-offset: -2px; }
`;

const Answer = styled.button`
	all: unset;
	box-sizing: border-box;
	cursor: pointer;
	width: 100%;
	min-width: 74px;
	min-height: ${target};
	padding: 0 6px;
	display: flex;
	align-items: center;
	font: 400 ${size.small}/1.2 ${font.text};
	color: ${tone.inkSoft};
	&[data-found="right"] { background: ${tone.seen}; color: ${tone.ink}; }
	&[data-found="wrong"] { box-shadow: inset 0 0 0 2.5px ${tone.ink}; color: ${tone.ink}; font-weight: 600; }
	&[data-chosen="true"] { box-shadow: inset 0 -4px 0 ${tone.copper}; }
	&:focus-visible { outline: 3px solid ${tone.copper}; outline-offset: -3px; }
`;

const ANSWERS: { found: Found; key: string; name: string }[] = [
	{ found: "right", key: "r", name: "Right" },
	{ found: "wrong", key: "w", name: "Wrong" },
	{ found: "not-seen", key: "n", name: "Not seen" },
	{ found: "not-here", key: "x", name: "None here" },
];
const SHOWN: { [found in Found]: string } = {
	right: "✓ right",
	wrong: "✗ wrong",
	"not-seen": "? not seen",
	"not-here": "– none",
};

/** Openings by checks and faces by checks: arrows to go about, one key for each answer. */
export function Matrix(props: PartProps) {
	const { page, walls, editing } = props;
	const { matrix } = page.account;
	const [chosen, setChosen] = useState<string | null>(null);
	const answers = walls.answers ?? {};
	const give = (key: string, found: Found | null) => {
		editing.keep((now) => {
			const { [key]: before, ...rest } = now.answers ?? {};
			return { ...now, answers: found === null ? rest : { ...rest, [key]: { found, text: before?.text ?? "" } } };
		});
	};
	const names = new Map(
		[
			...matrix.openings.map((r) => ({ r, checks: matrix.opening_checks })),
			...matrix.faces.map((r) => ({ r, checks: matrix.face_checks })),
		].flatMap(({ r, checks }) =>
			r.keys.map(
				(k, i) => [k, { what: `${r.words}: ${checks[i]?.words.toLowerCase()}`, looks: checks[i]?.looks ?? "" }] as const,
			),
		),
	);
	const sheet = { answers, chosen, setChosen, give };
	const at = chosen === null ? undefined : names.get(chosen);
	return (
		<>
			<p>
				Arrows go from cell to cell; <b>R</b> right, <b>W</b> wrong, <b>N</b> could not be seen, <b>X</b> there is none here,{" "}
				<b>Delete</b> opens it again.
			</p>
			<Told {...props} />
			{matrix.openings.length === 0 ? (
				<p>No windows or doors are counted yet. Count them on the Round, face by face: each becomes a row here.</p>
			) : (
				<Checks name="Openings by checks" head="Opening" rows={matrix.openings} checks={matrix.opening_checks} {...sheet} />
			)}
			{chosen !== null && at && (
				<Stack $gap={6} role="group" aria-label={at.what}>
					<Row $gap={8}>
						<b>{at.what}</b>
						<Soft>{at.looks}</Soft>
					</Row>
					<Row $gap={6}>
						{ANSWERS.map((a) => (
							<PlainButton key={a.found} aria-pressed={answers[chosen]?.found === a.found} onPress={() => give(chosen, a.found)}>
								{answers[chosen]?.found === a.found ? "● " : ""}
								{a.name}
							</PlainButton>
						))}
						{answers[chosen] && <QuietButton onPress={() => give(chosen, null)}>Open again</QuietButton>}
					</Row>
					{answers[chosen] && (
						<Field
							label="In words"
							value={answers[chosen].text ?? ""}
							onChange={(text) =>
								editing.type((now) => ({
									...now,
									answers: { ...now.answers, [chosen]: { found: now.answers?.[chosen]?.found ?? "wrong", text } },
								}))
							}
							onBlur={() => editing.keep()}
							error={editing.wrong[`answers.${chosen}`]}
						/>
					)}
				</Stack>
			)}
			<Checks name="Faces by checks" head="Face" rows={matrix.faces} checks={matrix.face_checks} {...sheet} />
			<Fasteners {...props} />
		</>
	);
}

/** What the round's notes tell of cells that are open: put in when somebody says so. */
function Told({ page, editing }: PartProps) {
	const { told } = page.account;
	if (told.length === 0) return null;
	const put = (which: typeof told) => {
		const answers = Object.fromEntries(which.map((t) => [t.key, t.answer]));
		editing.keep((now) => ({ ...now, answers: { ...now.answers, ...answers } }));
	};
	return (
		<Stack $gap={4} role="group" aria-label="Told on the round">
			<Row $gap={8}>
				<span>
					<b>Told on the round</b> and still open here: {told.length}.
				</span>
				{told.length > 1 && <PlainButton onPress={() => put(told)}>Put all of it in</PlainButton>}
			</Row>
			<ul>
				{told.map((t) => (
					<Item key={t.key}>
						<span>
							{t.words} {t.answer.text && <Soft>“{t.answer.text}”</Soft>}
						</span>
						<QuietButton onPress={() => put([t])}>Put it in</QuietButton>
					</Item>
				))}
			</ul>
		</Stack>
	);
}

interface ChecksProps {
	name: string;
	head: string;
	rows: Schemas["MatrixRow"][];
	checks: Schemas["CheckAsked"][];
	answers: NonNullable<PartProps["walls"]["answers"]>;
	chosen: string | null;
	setChosen: (key: string) => void;
	give: (key: string, found: Found | null) => void;
}

function Checks({ name, head, rows, checks, answers, chosen, setChosen, give }: ChecksProps) {
	const keys = (e: KeyboardEvent, key: string) => {
		if (e.ctrlKey || e.metaKey || e.altKey) return;
		const answer = ANSWERS.find((a) => a.key === e.key.toLowerCase());
		if (answer) give(key, answer.found);
		else if (e.key === "Backspace" || e.key === "Delete") give(key, null);
		else return;
		e.preventDefault();
		e.stopPropagation();
	};
	return (
		<Sheet>
			<Grid aria-label={name}>
				<TableHeader>
					<Column isRowHeader>{head}</Column>
					{checks.map((c) => (
						<Column key={c.key}>{c.words}</Column>
					))}
				</TableHeader>
				<TableBody>
					{rows.map((r) => (
						<GridRow key={r.words} id={r.words} textValue=" ">
							<Cell>{r.words}</Cell>
							{r.keys.map((key, i) => {
								const found = answers[key]?.found;
								return (
									<Cell key={key}>
										<Answer
											type="button"
											data-found={found}
											data-key={key}
											data-chosen={chosen === key}
											aria-label={`${r.words}, ${checks[i]?.words}: ${found ? SHOWN[found].slice(2) : "open"}`}
											onFocus={() => setChosen(key)}
											onClick={() => setChosen(key)}
											onKeyDown={(e) => keys(e, key)}
										>
											{found ? SHOWN[found] : "·"}
											{answers[key]?.text ? " …" : ""}
										</Answer>
									</Cell>
								);
							})}
						</GridRow>
					))}
				</TableBody>
			</Grid>
		</Sheet>
	);
}

/** Rows of fasteners: what was counted, and how sure that is. */
function Fasteners({ view, page, editing }: PartProps) {
	const list = rowsOf<Walls, "fasteners", Schemas["FastenerRow"]>(editing, "fasteners");
	const { rows, set } = list;
	const add = () =>
		list.add({
			id: nextId("F", rows),
			face: rows.at(-1)?.face ?? "front",
			row: "",
			under_window: false,
			counted: 0,
			overdriven: 0,
		});
	return (
		<>
			<h2>Fasteners by row</h2>
			{rows.map((r) => {
				return (
					<Stack key={r.id} $gap={4} role="group" aria-label={`Row ${r.id}`}>
						<Row $gap={10}>
							<Chooser
								label="Face"
								choices={FACES}
								value={r.face}
								onChange={(f) => f && set(r.id, { face: f as FaceKey }, true)}
							/>
							<Field label="Which row" {...list.text(r, "row")} />
							<NumberBox
								label="Looked at"
								value={r.counted}
								least={0}
								most={100000}
								onChange={(counted) => set(r.id, { counted: counted ?? 0 }, true)}
							/>
							<NumberBox
								label="Overdriven"
								value={r.overdriven}
								least={0}
								most={100000}
								onChange={(overdriven) => set(r.id, { overdriven: overdriven ?? 0 }, true)}
								error={list.wrong(r.id, "overdriven")}
							/>
							<Tick value={r.under_window ?? false} onChange={(under_window) => set(r.id, { under_window }, true)}>
								Under a window
							</Tick>
							<QuietButton onPress={() => list.remove(r.id)}>Take {r.id} out</QuietButton>
						</Row>
						<Figures>{page.account.rows.find((a) => a.id === r.id)?.words}</Figures>
					</Stack>
				);
			})}
			<Row>
				<PlainButton onPress={add}>Count a row</PlainButton>
			</Row>
			<Offered view={view} offered={page.account.offered_rows} name="Rows with overdriven fasteners" />
		</>
	);
}
