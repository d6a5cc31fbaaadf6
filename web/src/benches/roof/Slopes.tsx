import type { Schemas } from "../../api/client";
import type { Chosen } from "../../design/Drawing";
import { Soft } from "../../design/layout";
import { tone } from "../../design/tokens";
import { RowButton, Table } from "../../parts/Table";
import { useShown } from "../../parts/units";

export interface ChoosingProps {
	chosen: Chosen | null;
	onChoose: (c: Chosen) => void;
}

export const inTwelve = (x: number) => `${Math.abs(x - Math.round(x)) < 0.02 ? Math.round(x) : x.toFixed(1)}:12`;

/** The slopes, as the plan numbers them. */
export function Slopes({ account, here, chosen, onChoose }: ChoosingProps & { account: Schemas["Account"]; here: string[] }) {
	const u = useShown();
	const facets = account.shape?.facets ?? [];
	return (
		<Table aria-label="Slopes">
			<thead>
				<tr>
					<th>Slope</th>
					<th className="n">Pitch</th>
					<th className="n">Area</th>
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
							<td className="n">{f && u.area(f.true_area_m2)}</td>
							<td className="n" style={{ color: tone.ochre }}>
								{s.spent
									? "spent"
									: s.left && (s.left[1] ?? 0) < 0
										? "overdue"
										: s.left
											? `${Math.round(s.left[0] ?? 0)}–${Math.round(s.left[2] ?? 0)}`
											: "?"}
							</td>
						</tr>
					);
				})}
			</tbody>
		</Table>
	);
}
