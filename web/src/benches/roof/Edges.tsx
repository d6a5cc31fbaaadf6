import type { Schemas } from "../../api/client";
import { Soft } from "../../design/layout";
import { RowButton, Table } from "../../parts/Table";
import { useShown } from "../../parts/units";
import type { ChoosingProps } from "./Slopes";

const said = (kind: string) => kind.replaceAll("_", " ").replace(/^./, (c) => c.toUpperCase());

/** Every edge with its true length, by kind. */
export function Edges({
	account,
	shape,
	chosen,
	onChoose,
}: ChoosingProps & { account: Schemas["Account"]; shape: Schemas["RoofShape"] }) {
	const u = useShown();
	const name = (facet: string | null | undefined) => {
		const i = account.slopes.findIndex((s) => s.facet === facet);
		return i < 0 ? "" : `S${i + 1}`;
	};
	return (
		<>
			<Soft>
				{Object.entries(shape.edge_totals)
					.map(([kind, l]) => `${said(kind).toLowerCase()} ${u.length(l.true_m, 1)}`)
					.join(" · ")}
			</Soft>
			<Table aria-label="Edges">
				<thead>
					<tr>
						<th>Edge</th>
						<th>Between</th>
						<th className="n">True length</th>
						<th className="n">On the plan</th>
						<th className="n">Heights</th>
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
								<td className="n">{u.length(e.true_m, 2)}</td>
								<td className="n">{u.length(e.plan_m, 2)}</td>
								<td className="n">
									{u.length(e.z0_m, 2)} to {u.length(e.z1_m, 2)}
								</td>
							</tr>
						);
					})}
				</tbody>
			</Table>
		</>
	);
}
