import styled from "styled-components";
import type { Schemas } from "../../api/client";
import type { Chosen } from "../../design/Drawing";
import { Soft } from "../../design/primitives";
import { font, hairline, line, size, target, tone } from "../../design/tokens";

export const Table = styled.table`
	width: 100%;
	border-collapse: collapse;
	font-size: ${size.small};
	th { text-align: left; font-weight: 400; color: ${tone.inkSoft}; padding: 4px 6px; border-bottom: ${line}; vertical-align: bottom; }
	td { padding: 5px 6px; border-bottom: ${hairline}; vertical-align: top; }
	tbody tr { min-height: ${target}; }
	tr[data-chosen="true"] td { background: ${tone.plasterLow}; }
	tr[data-chosen="true"] td:first-child { box-shadow: inset 4px 0 0 ${tone.copper}; }
	td.n { font-family: ${font.figures}; }
	.n { text-align: right; white-space: nowrap; }
	tfoot td { font-weight: 600; border-bottom: 0; }
`;
/** A row is chosen by the button in it: found by keyboard and by a screen reader. */
export const RowButton = styled.button`
	all: unset;
	cursor: pointer;
	min-height: ${target};
	display: flex;
	flex-direction: column;
	justify-content: center;
	width: 100%;
	&:focus-visible { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
	b { font-weight: 600; }
`;

export interface ChoosingProps {
	chosen: Chosen | null;
	onChoose: (c: Chosen) => void;
}

export const inTwelve = (x: number) => `${Math.abs(x - Math.round(x)) < 0.02 ? Math.round(x) : x.toFixed(1)}:12`;

/** The slopes, as the plan numbers them. */
export function Slopes({ account, here, chosen, onChoose }: ChoosingProps & { account: Schemas["Account"]; here: string[] }) {
	const facets = account.shape?.facets ?? [];
	return (
		<Table aria-label="Slopes">
			<thead>
				<tr>
					<th>Slope</th>
					<th className="n">Pitch</th>
					<th className="n">m²</th>
					<th className="n">Years left</th>
				</tr>
			</thead>
			<tbody>
				{account.slopes.map((s, i) => {
					const f = facets[i];
					const on = chosen?.kind === "facet" && chosen.id === s.facet;
					return (
						<tr key={s.facet} data-chosen={on}>
							<td>
								<RowButton type="button" aria-pressed={on} onClick={() => onChoose({ kind: "facet", id: s.facet })}>
									<span>
										<b>S{i + 1}</b> {s.label}
									</span>
									<Soft>
										{s.covering_name}
										{here.includes(s.facet) && " · here"}
									</Soft>
								</RowButton>
							</td>
							<td className="n">{f && inTwelve(f.pitch_in_12)}</td>
							<td className="n">{f?.true_area_m2.toFixed(1)}</td>
							<td className="n" style={{ color: tone.ochre }}>
								{s.spent ? "spent" : s.left ? `${Math.round(s.left[0] ?? 0)}–${Math.round(s.left[2] ?? 0)}` : "?"}
							</td>
						</tr>
					);
				})}
			</tbody>
		</Table>
	);
}
