import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Soft } from "../../design/layout";
import { font, size, tone } from "../../design/tokens";

const Told = styled.p<{ $open: boolean }>`
	font: 400 ${size.small}/1.45 ${font.figures};
	border-left: 4px ${(p) => (p.$open ? "dashed" : "solid")} ${(p) => (p.$open ? tone.ochre : tone.inkSoft)};
	padding-left: 8px;
`;

const VERDICTS: Record<Schemas["Verdict"], string> = {
	meets: "As asked",
	fails: "Not as asked",
	refer: "To be referred",
	unknown: "A figure is missing",
};

/** A reading held against the practice's rule, with the sum and the school it rests on. */
export function Sum({ judged }: { judged: Schemas["Judged"] }) {
	return (
		<Told $open={judged.verdict === "unknown"}>
			<b>{VERDICTS[judged.verdict]}:</b> {judged.sum}. <Soft>Rule: {judged.school}</Soft>
		</Told>
	);
}
