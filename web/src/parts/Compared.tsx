import type { Schemas } from "../api/client";
import { Table } from "./Table";
import { inItsUnit, type Shown, useShown } from "./units";

const figure = (u: Shown, v: number | null | undefined, unit: string) => (v == null ? "–" : inItsUnit(u, v, unit));

/** Figures before and after a change, beside each other. */
export function Compared({ rows }: { rows: Schemas["Compared"][] }) {
	const u = useShown();
	return (
		<Table aria-label="Before and after">
			<thead>
				<tr>
					<th>What</th>
					<th className="n">Before</th>
					<th className="n">After</th>
				</tr>
			</thead>
			<tbody>
				{rows.map((r) => (
					<tr key={r.what + r.unit}>
						<td>{r.what.replace(/^./, (x) => x.toUpperCase())}</td>
						<td className="n">{figure(u, r.before, r.unit)}</td>
						<td className="n">
							<b>{figure(u, r.after, r.unit)}</b>
						</td>
					</tr>
				))}
			</tbody>
		</Table>
	);
}

/** A comparison as the text of a recommendation: what is changed, and its figures. */
export const recommendationText = (u: Shown, c: { changes: string[]; sentence: string; rows: Schemas["Compared"][] }) =>
	`${c.changes.join("; ")}. ${c.sentence} ${c.rows
		.slice(1, 7)
		.map((r) => `${r.what} ${figure(u, r.before, r.unit)} to ${figure(u, r.after, r.unit)}`)
		.join("; ")}`.replace(/^./, (x) => x.toUpperCase());
