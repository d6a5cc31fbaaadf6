import type { Schemas } from "../api/client";
import { Table } from "./Table";

const figure = (v: number | null | undefined) => (v == null ? "–" : Math.abs(v) < 10 ? v.toFixed(1) : v.toFixed(0));

/** Figures before and after a change, beside each other. */
export function Compared({ rows }: { rows: Schemas["Compared"][] }) {
	return (
		<Table aria-label="Before and after">
			<thead>
				<tr>
					<th>What</th>
					<th className="n">Before</th>
					<th className="n">After</th>
					<th />
				</tr>
			</thead>
			<tbody>
				{rows.map((r) => (
					<tr key={r.what + r.unit}>
						<td>{r.what.replace(/^./, (x) => x.toUpperCase())}</td>
						<td className="n">{figure(r.before)}</td>
						<td className="n">
							<b>{figure(r.after)}</b>
						</td>
						<td>{r.unit}</td>
					</tr>
				))}
			</tbody>
		</Table>
	);
}

/** A comparison as the text of a recommendation: what is changed, and its figures. */
export const recommendationText = (c: { changes: string[]; sentence: string; rows: Schemas["Compared"][] }) =>
	`${c.changes.join("; ")}. ${c.sentence} ${c.rows
		.slice(1, 7)
		.map((r) => `${r.what} ${figure(r.before)} to ${figure(r.after)} ${r.unit}`)
		.join("; ")}`.replace(/^./, (x) => x.toUpperCase());
