import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Drawing } from "../../design/Drawing";
import { Figures, Folded, Soft, Stack } from "../../design/layout";
import { hairline, size, target, tone } from "../../design/tokens";
import type { PartProps } from "./Trace";

const Two = styled.div`display: grid; grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr); gap: 14px; align-items: start; @media (max-width: 900px) { grid-template-columns: 1fr; }`;
const Ranked = styled.ol`
	list-style: none;
	margin: 0;
	padding: 0;
	> li { border-bottom: ${hairline}; padding: 8px 0; }
	summary { cursor: pointer; display: grid; grid-template-columns: 4.2em minmax(0, 1fr); gap: 10px; align-items: center; min-height: ${target}; }
	summary b { font-size: ${size.text}; }
`;
const Bars = styled.table`
	border-collapse: collapse;
	width: 100%;
	font-size: ${size.small};
	th { font-weight: 400; color: ${tone.inkSoft}; text-align: left; padding: 2px 8px 2px 0; width: 6em; }
	td { padding: 2px 0; }
	td.bar { width: 60%; }
`;
// Against to the left of the middle line, for to the right of it; ink, because neither is water nor danger.
const Bar = styled.div<{ $bits: number }>`
	position: relative;
	height: 14px;
	border-left: 1px solid ${tone.inkSoft};
	margin-left: 50%;
	&::after {
		content: "";
		position: absolute;
		top: 2px;
		bottom: 2px;
		background: ${(p) => (p.$bits < 0 ? "transparent" : tone.ink)};
		border: 1.5px solid ${tone.ink};
		width: ${(p) => Math.min(100, Math.abs(p.$bits) * 14)}%;
		${(p) => (p.$bits < 0 ? "right: 100%;" : "left: 0;")}
	}
`;

const FACTORS: { key: keyof Schemas["TraceFactors"]; name: string }[] = [
	{ key: "state", name: "State" },
	{ key: "place", name: "Place" },
	{ key: "rain", name: "Rain" },
	{ key: "tests", name: "Tests" },
];

const percent = (p: number) => (p > 0.995 ? "over 99 %" : p < 0.005 ? "under 1 %" : `${(p * 100).toFixed(0)} %`);
const times = (bits: number) =>
	Math.abs(bits) < 0.05
		? "× 1"
		: bits > 0
			? `× ${(2 ** bits).toFixed(bits > 3.3 ? 0 : 1)}`
			: `÷ ${(2 ** -bits).toFixed(bits < -3.3 ? 0 : 1)}`;

/** What may feed the spot, the likeliest first, each with its reasons; and the way the water takes. */
export function Ranking({ traced, drawn, called }: PartProps & { drawn: Schemas["SpotDrawn"] | undefined }) {
	if (!traced) return null;
	const shown = traced.ranking.filter((r) => r.p >= 0.02).slice(0, 6);
	return (
		<>
			<p>
				<b>{traced.stop.now ? "Stop here: " : "Not yet: "}</b>
				{traced.stop.because} {traced.stop.watch && <Soft>{traced.stop.watch}</Soft>}
			</p>
			<Two>
				<div>
					<Ranked aria-label="What may feed it">
						{shown.map((r, k) => (
							<li key={r.causes.join("+")}>
								<details open={k === 0}>
									<summary>
										<Figures>{percent(r.p)}</Figures>
										<b>{r.causes.map(called).join(" with ")}</b>
									</summary>
									<Stack $gap={6}>
										<ul>
											{r.because.map((b) => (
												<li key={b}>{b}</li>
											))}
										</ul>
										{r.causes.map((id) => {
											const c = traced.candidates.find((x) => x.id === id);
											return c && <Factors key={id} of={c} name={called(id)} />;
										})}
									</Stack>
								</details>
							</li>
						))}
						<li>
							<Figures>{percent(traced.unlisted)}</Figures> <Soft>something that is not on the list</Soft>
						</li>
					</Ranked>
					<Folded head="What would change this">
						<ul>
							{traced.would_change.map((w) => (
								<li key={w}>{w}</li>
							))}
						</ul>
					</Folded>
				</div>
				<div>
					{drawn?.plan && <Drawing svg={drawn.plan} most="340px" />}
					{drawn?.section && <Drawing svg={drawn.section} most="300px" />}
				</div>
			</Two>
		</>
	);
}

function Factors({ of, name }: { of: Schemas["TracedCandidate"]; name: string }) {
	return (
		<Bars aria-label={`What speaks for and against ${name}`}>
			<tbody>
				{FACTORS.map((f) => {
					const bits = of.factors[f.key];
					return (
						<tr key={f.key}>
							<th scope="row">{f.name}</th>
							<td>
								<Figures>{times(bits)}</Figures> <Soft>{bits.toFixed(1)} bits</Soft>
							</td>
							<td className="bar">
								<Bar $bits={bits} />
							</td>
						</tr>
					);
				})}
			</tbody>
		</Bars>
	);
}
