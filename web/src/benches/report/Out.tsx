import { useState } from "react";
import type { Schemas } from "../../api/client";
import { type JobView, useSend } from "../../api/queries";
import { MainButton, QuietButton } from "../../design/buttons";
import { Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Figures, Folded, Hazard, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { same } from "../../parts/draft/merge";
import { useStay } from "../../parts/draft/useHalf";

interface Props {
	view: JobView;
	leaving: Schemas["Leaving"];
	onNote: (id: string) => void;
}

const size = (n: number) => (n > 1e6 ? `${(n / 1e6).toFixed(1)} MB` : `${Math.ceil(n / 1000)} kB`);

/** A letter as far as it is written; what is not is as it is proposed. */
interface Letter {
	to: string;
	subject: string | null;
	text: string | null;
}
const BLANK: Letter = { to: "", subject: null, text: null };

/** Before it goes out: when it is due, what is missing, sending it, and what left the house. */
export function Out({ view, leaving, onNote }: Props) {
	const { due } = leaving;
	const send = useSend(view.job.id);
	// A letter is written in more than one go: other benches are looked at in between, and it is asked about before the page is left.
	const [{ to, subject, text }, write] = useStay<Letter>(`${view.job.id} letter`, BLANK, (l) => !same(l, BLANK));
	const [anyway, setAnyway] = useState(false);
	const stops = due.missing.filter((m) => m.stops).length;
	const wanted = due.missing.filter((m) => m.note_id && !m.stops);
	const letter = text ?? leaving.letter;
	const go = () =>
		send.mutate(
			{ to, subject: subject ?? leaving.subject, text: letter, anyway },
			{
				onSuccess: () => {
					// What was written while it was on its way is the beginning of the next one.
					write((now) => (same(now, { to, subject, text }) ? BLANK : now));
					say(`Handed to the post office for ${to} (simulated: nothing leaves this machine).`);
				},
			},
		);
	return (
		<Stack>
			<section aria-label="Due">
				<h2>{due.late ? <Hazard>{due.words}</Hazard> : due.words}</h2>
				{due.missing.length === 0 ? (
					<p>Nothing is missing.</p>
				) : (
					<>
						<Soft>
							{due.missing.length === 1 ? "One thing is missing" : `${due.missing.length} things are missing`}
							{stops > 0 && `; ${stops === 1 ? "one of them" : `${stops} of them`} should stop it`}.
						</Soft>
						<ul aria-label="What is missing">
							{due.missing
								.filter((m) => !m.note_id || m.stops)
								.map((m) => (
									<li key={m.words}>
										{m.stops && <Hazard>Stops it: </Hazard>}
										{m.words}{" "}
										{m.note_id && view.notes.some((n) => n.id === m.note_id) && (
											<QuietButton onPress={() => onNote(m.note_id ?? "")}>Open it</QuietButton>
										)}
									</li>
								))}
						</ul>
						{wanted.length > 0 && (
							<Folded head={wanted.length === 1 ? "One finding wants a picture" : `${wanted.length} findings want a picture`}>
								<ul aria-label="Pictures that are missing">
									{wanted.map((m) => (
										<li key={m.words}>
											{m.words}{" "}
											{view.notes.some((n) => n.id === m.note_id) && (
												<QuietButton onPress={() => onNote(m.note_id ?? "")}>Open it</QuietButton>
											)}
										</li>
									))}
								</ul>
							</Folded>
						)}
					</>
				)}
			</section>
			<section aria-label="Send it">
				<h2>Send it</h2>
				<Columns>
					<Field label="To (address)" value={to} onChange={(typed) => write((now) => ({ ...now, to: typed }))} />
					<Field
						label="Subject"
						value={subject ?? leaving.subject}
						onChange={(typed) => write((now) => ({ ...now, subject: typed === leaving.subject ? null : typed }))}
					/>
				</Columns>
				<Field
					label="Letter"
					rows={9}
					value={letter}
					onChange={(typed) => write((now) => ({ ...now, text: typed === leaving.letter ? null : typed }))}
				/>
				<Row>
					<MainButton isDisabled={to.trim() === "" || (stops > 0 && !anyway) || send.isPending} onPress={go}>
						Send the PDF
					</MainButton>
					<QuietButton
						onPress={() =>
							navigator.clipboard?.writeText(letter).then(
								() => say("The letter was copied."),
								() => say("The browser does not let it be copied. Mark it and copy it by hand.", { wrong: true }),
							)
						}
					>
						Copy the letter
					</QuietButton>
					{stops > 0 && (
						<Tick value={anyway} onChange={setAnyway}>
							It is to go as it is
						</Tick>
					)}
				</Row>
				<Soft>The post office here is simulated: it keeps each letter as a mail file in the data folder.</Soft>
			</section>
			<section aria-label="What left the house">
				<h2>What left the house</h2>
				{leaving.exports.length === 0 ? (
					<Soft>Nothing yet. Everything that is downloaded or sent is written down here.</Soft>
				) : (
					<ul>
						{leaving.exports.map((e) => (
							<li key={`${e.at} ${e.sha256}`}>
								<Figures>{e.at.slice(0, 16).replace("T", " ")}</Figures> {e.what}, {size(e.bytes)}
								{e.to ? `, sent to ${e.to}` : ", downloaded"} <Soft>by {e.who}</Soft> <Figures>{e.sha256.slice(0, 8)}</Figures>
							</li>
						))}
					</ul>
				)}
			</section>
		</Stack>
	);
}
