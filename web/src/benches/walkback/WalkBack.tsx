import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import styled from "styled-components";
import { newId, type Schemas } from "../../api/client";
import { ask, type JobView, pictureUrl, useSay } from "../../api/queries";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Gauge } from "../../design/Gauge";
import { Figures, Hazard, Row, Soft } from "../../design/layout";
import { size, tone } from "../../design/tokens";
import { Asked } from "../../parts/Asked";
import { useHalf } from "../../parts/draft/useHalf";

const Page = styled.main`min-height: 100dvh; display: grid; grid-template-rows: auto minmax(0, 1fr) auto auto; gap: 10px; padding: 12px 20px 16px; max-width: 1100px; margin: 0 auto;`;
const Shown = styled.section`
	display: grid;
	grid-template-rows: minmax(180px, 1fr) auto;
	gap: 12px;
	touch-action: pan-y;
	outline: none;
	figure { min-height: 0; background: ${tone.plasterLow}; display: grid; place-items: center; overflow: hidden; }
	img { max-width: 100%; max-height: 56dvh; object-fit: contain; display: block; }
	h1 { font-size: ${size.display}; }
	p { font-size: ${size.large}; }
`;

const SAID: Record<Schemas["SaidKind"], string> = {
	asked: "they asked",
	knew: "they knew",
	"show-me": "show me there",
	told: "shown and said",
	question: "a question",
};

/** One finding a screen, between two people: what it is, what to do next; what is asked and known is kept with its time. */
export function WalkBack() {
	const { job = "" } = useParams();
	return <Asked question={useQuery(ask.job(job))}>{(view) => <Screens view={view} />}</Asked>;
}

function Screens({ view }: { view: JobView }) {
	const job = view.job.id;
	const list = view.findings.filter((f) => f.section === "findings" && f.in_report);
	const [n, setN] = useState(0);
	const [asking, setAsking] = useState(false);
	// Said here and not in a notice: a notice would lie over the buttons.
	const [kept, setKept] = useState("");
	const save = useSay(job);
	const from = useRef<number | null>(null);
	const at = Math.min(n, Math.max(0, list.length - 1));
	const f = list[at];
	// What is being asked belongs to the finding it is asked about.
	const [text, setText] = useHalf(`${job} asked ${f?.note_id ?? ""}`);
	const go = (by: number) => {
		setKept("");
		setAsking(false);
		setN(Math.max(0, Math.min(list.length - 1, at + by)));
	};
	useEffect(() => {
		const key = (e: KeyboardEvent) => {
			if (e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement) return;
			if (e.key === "ArrowRight") go(1);
			if (e.key === "ArrowLeft") go(-1);
		};
		globalThis.addEventListener("keydown", key);
		return () => globalThis.removeEventListener("keydown", key);
	});
	const keep = (kind: Schemas["SaidKind"], words: string) => {
		if (!f) return;
		const body = { at: new Date().toISOString(), note_id: f.note_id, kind, text: words, answer: "" };
		const done = () => {
			setKept(`Kept with its time: ${SAID[kind]}.`);
			// What was typed stays until it is kept, and what was typed since then as well.
			if (words) {
				setText((now) => (now === words ? "" : now));
				setAsking(false);
			}
		};
		save.mutate({ id: newId(), base: null, body }, { onSuccess: done });
	};
	const picture = view.pictures.find((p) => f && p.body.note_id === f.note_id);
	return (
		<Page>
			<Row $between>
				<Link to={`/jobs/${job}/report`}>Back to the report</Link>
				<Soft>{view.job.body.name}</Soft>
				<Figures aria-live="polite">
					{list.length === 0 ? "0" : at + 1} of {list.length}
				</Figures>
			</Row>
			{f ? (
				<Shown
					aria-label={`${f.number}. ${f.title}`}
					onPointerDown={(e) => {
						from.current = e.clientX;
					}}
					onPointerUp={(e) => {
						const moved = from.current === null ? 0 : e.clientX - from.current;
						from.current = null;
						if (Math.abs(moved) > 60) go(moved < 0 ? 1 : -1);
					}}
				>
					<figure>
						{picture ? (
							<img
								src={pictureUrl(job, picture.id, "display")}
								alt={picture.body.caption || picture.body.name}
								draggable={false}
							/>
						) : (
							<Soft>No picture. Show the place itself.</Soft>
						)}
					</figure>
					<div>
						<Row>
							<Gauge ticks={f.ticks} />
							<h1>
								{f.number}. {f.title}
							</h1>
						</Row>
						<p>
							{f.hazard && <Hazard>Hazard. </Hazard>}
							{f.place}. {f.consequence ?? f.cause}
						</p>
						<p>
							<b>{f.urgency_words}.</b> {f.recommendation} {f.trade && <Soft>({f.trade})</Soft>}
						</p>
					</div>
				</Shown>
			) : (
				<p>Nothing was found that needs doing.</p>
			)}
			<Soft role="status">{kept || "\u00a0"}</Soft>
			<Row $between>
				<QuietButton onPress={() => go(-1)} isDisabled={at === 0}>
					Before
				</QuietButton>
				{asking || text !== "" ? (
					<Row>
						<Field label="What they asked" value={text} onChange={setText} autoFocus />
						<PlainButton isDisabled={text.trim() === "" || save.isPending} onPress={() => keep("asked", text)}>
							Keep it
						</PlainButton>
						<QuietButton
							onPress={() => {
								setAsking(false);
								setText("");
							}}
						>
							Leave it
						</QuietButton>
					</Row>
				) : (
					<Row>
						<PlainButton onPress={() => keep("told", "")}>Shown and said</PlainButton>
						<PlainButton onPress={() => keep("knew", "")}>They knew</PlainButton>
						<PlainButton onPress={() => setAsking(true)}>They asked…</PlainButton>
						<PlainButton onPress={() => keep("show-me", "")}>Show me there</PlainButton>
					</Row>
				)}
				<MainButton onPress={() => go(1)} isDisabled={at >= list.length - 1}>
					Next
				</MainButton>
			</Row>
		</Page>
	);
}
