import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { type JobView, useAnswerDetail, useChoices } from "../../api/queries";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Finder } from "../../design/choices";
import { Dialog } from "../../design/Dialog";
import { Figures, Row, Soft, Stack } from "../../design/layout";
import { hairline, tone } from "../../design/tokens";
import type { ChoosingProps } from "./Slopes";
import type { Page } from "./useRoof";

type Detail = Schemas["Detail"];

const Item = styled.li`
	display: grid;
	grid-template-columns: minmax(0, 1fr) auto;
	gap: 4px 14px;
	align-items: center;
	padding: 8px 4px 8px 10px;
	border-bottom: ${hairline};
	border-left: 4px solid transparent;
	&[data-chosen="true"] { border-left-color: ${tone.copper}; background: ${tone.plasterLow}; }
	@media (max-width: 760px) { grid-template-columns: minmax(0, 1fr); }
`;
const STATES: Record<Detail["state"], string> = {
	open: "to look at",
	right: "right",
	wrong: "wrong",
	"not-seen": "could not be seen",
};

/** The building's own checklist: what its shape asks for, where water concentrates. */
export function Details({ view, page, chosen, onChoose }: ChoosingProps & { view: JobView; page: Page }) {
	const answer = useAnswerDetail(view.job.id);
	const [asking, setAsking] = useState<{ detail: Detail; what: "wrong" | "not-seen" } | null>(null);
	const give = (key: string, a: Schemas["Answer"] | null) => answer.mutate({ base: page.rev ?? 0, key, answer: a });
	const done = page.account.details.filter((d) => d.state !== "open").length;
	return (
		<>
			<p>
				{done} of {page.account.details.length} answered. The shape asks for each of them; they are counted in what is left on the
				round.
			</p>
			<ul>
				{page.account.details.map((d) => (
					<Item key={d.key} data-chosen={chosen?.kind === "detail" && chosen.id === d.key}>
						<div>
							<QuietButton style={{ padding: 0 }} onPress={() => onChoose({ kind: "detail", id: d.key })}>
								{d.words}
							</QuietButton>
							<div>
								{d.size && <Figures>{d.size} · </Figures>}
								<Soft>
									<b style={{ color: d.state === "right" ? tone.verdigris : tone.ink }}>{STATES[d.state]}</b>
									{d.said && ` · ${d.said}`}
									{d.state === "open" && ` · ${d.why}`}
								</Soft>
							</div>
						</div>
						<Row $gap={6}>
							{d.state === "open" ? (
								<>
									<PlainButton onPress={() => give(d.key, { found: "right" })}>Right</PlainButton>
									<PlainButton onPress={() => setAsking({ detail: d, what: "wrong" })}>Wrong …</PlainButton>
									<PlainButton onPress={() => setAsking({ detail: d, what: "not-seen" })}>Not seen …</PlainButton>
								</>
							) : (
								page.roof.answers?.[d.key] && <QuietButton onPress={() => give(d.key, null)}>Open again</QuietButton>
							)}
						</Row>
					</Item>
				))}
			</ul>
			{asking && (
				<Asking
					detail={asking.detail}
					what={asking.what}
					onClose={() => setAsking(null)}
					onGive={(a) => {
						give(asking.detail.key, a);
						setAsking(null);
					}}
				/>
			)}
		</>
	);
}

function Asking({
	detail,
	what,
	onClose,
	onGive,
}: {
	detail: Detail;
	what: "wrong" | "not-seen";
	onClose: () => void;
	onGive: (a: Schemas["Answer"]) => void;
}) {
	const choices = useChoices();
	const [other, setOther] = useState<string | null>(null);
	const name = (id: string) => choices?.conditions.find((c) => c.id === id)?.name ?? id;
	return (
		<Dialog title={detail.words} isOpen onClose={onClose}>
			<Stack>
				<Soft>{detail.why}</Soft>
				{what === "wrong" ? (
					<>
						<p>What is wrong with it? It becomes a note at its place.</p>
						{detail.conditions.map((c) => (
							<PlainButton key={c} onPress={() => onGive({ found: "wrong", condition: c })}>
								{name(c)}
							</PlainButton>
						))}
						<Finder
							label="Something else"
							choices={(choices?.conditions ?? []).map((c) => ({ id: c.id, name: c.name, more: c.sees }))}
							value={other}
							onChange={setOther}
						/>
						{other && <MainButton onPress={() => onGive({ found: "wrong", condition: other })}>Note it</MainButton>}
					</>
				) : (
					<>
						<p>Why could it not be seen? It is printed as a limit.</p>
						{(choices?.limits ?? []).map((l) => (
							<PlainButton key={l.value} onPress={() => onGive({ found: "not-seen", reason: l.value })}>
								{l.name.replace(/^./, (c) => c.toUpperCase())}
							</PlainButton>
						))}
					</>
				)}
			</Stack>
		</Dialog>
	);
}
