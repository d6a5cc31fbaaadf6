import type { Schemas } from "../../api/client";
import { Soft } from "../../design/layout";
import { RowButton, Table } from "../../parts/Table";
import type { ChoosingProps } from "./Slopes";

const said = (kind: string) => kind.replaceAll("_", " ").replace(/^./, (c) => c.toUpperCase());

/** Every edge with its true length, by kind. */
export function Edges({
	account,
	shape,
	chosen,
	onChoose,
}: ChoosingProps & { account: Schemas["Account"]; shape: Schemas["RoofShape"] }) {
	const name = (facet: string | null | undefined) => {
		const i = account.slopes.findIndex((s) => s.facet === facet);
		return i < 0 ? "" : `S${i + 1}`;
	};
	return (
		<>
			<Soft>
				{Object.entries(shape.edge_totals)
					.map(([kind, l]) => `${said(kind).toLowerCase()} ${l.true_m.toFixed(1)} m`)
					.join(" · ")}
			</Soft>
			<Table aria-label="Edges">
				<thead>
					<tr>
						<th>Edge</th>
						<th>Between</th>
						<th className="n">True length, m</th>
						<th className="n">On the plan, m</th>
						<th className="n">Heights, m</th>
					</tr>
				</thead>
				<tbody>
					{shape.edges.map((e) => {
						const on = chosen?.kind === "edge" && chosen.id === e.id;
						return (
							<tr key={e.id} data-chosen={on}>
								<td>
									<RowButton type="button" aria-pressed={on} onClick={() => onChoose({ kind: "edge", id: e.id })}>
										{said(e.kind)}
										{e.lower_side && <Soft>{said(e.lower_side).toLowerCase()} below</Soft>}
									</RowButton>
								</td>
								<td>{[name(e.facet), name(e.other)].filter(Boolean).join(" and ")}</td>
								<td className="n">{e.true_m.toFixed(2)}</td>
								<td className="n">{e.plan_m.toFixed(2)}</td>
								<td className="n">
									{e.z0_m.toFixed(2)} to {e.z1_m.toFixed(2)}
								</td>
							</tr>
						);
					})}
				</tbody>
			</Table>
		</>
	);
}
