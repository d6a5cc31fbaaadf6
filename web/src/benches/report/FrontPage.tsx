import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Figures, Hazard, Soft, Stack } from "../../design/layout";
import { hairline, size, tone } from "../../design/tokens";

const Answer = styled.section`border-left: 3px solid ${tone.copper}; padding-left: 12px; display: grid; gap: 6px; p { font-size: ${size.large}; font-weight: 600; line-height: 1.3; }`;
const First = styled.ol`li { padding: 6px 0; border-bottom: ${hairline}; }`;

/** What the report says on its first page: the answer, what comes first, what was not seen. */
export function FrontPage({ front }: { front: Schemas["FrontPage"] }) {
	return (
		<Stack $gap={10}>
			<Answer aria-label="The answer">
				<Soft>{front.asked}</Soft>
				{front.answer.map((s) => (
					<p key={s}>{s}</p>
				))}
			</Answer>
			{front.first.length > 0 && (
				<section aria-label="To be done first">
					<h2>To be done first</h2>
					<First>
						{front.first.map((f) => (
							<li key={f.note_id}>
								<Figures>{f.number}. </Figures>
								<b>{f.title}</b>, {f.place} <Soft>{f.hazard ? <Hazard>Hazard · </Hazard> : null}</Soft>
								<Soft>
									{f.when} · {f.who}
								</Soft>
							</li>
						))}
					</First>
				</section>
			)}
			<Soft>{front.unseen.sentence}</Soft>
		</Stack>
	);
}
