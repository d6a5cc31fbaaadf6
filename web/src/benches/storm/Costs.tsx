import { PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import { Table } from "../../parts/Table";
import type { PartProps, Visit } from "./Storm";

type Money = NonNullable<Visit["costs"]>;
const FIGURES = [
	["repair_per_hit", "Mending one hit"],
	["repair_fixed", "Coming at all"],
	["replace_per_square", "A new covering, for each 100 sq ft"],
	["difficulty", "How much harder mending is here"],
] as const;
const USUAL: Money = { currency: "", repair_per_hit: 20, repair_fixed: 150, replace_per_square: 450, difficulty: 1 };

/** Mending against a new covering, slope by slope; only when costs are asked for. */
export function Costs({ page, editing }: PartProps) {
	const costs = editing.draft.costs ?? null;
	const put = (next: Money | null, now = true) => {
		const body = { ...editing.draft, costs: next };
		if (now) editing.keep(body);
		else editing.type(body);
	};
	if (!costs) {
		return (
			<Row $gap={8}>
				<PlainButton onPress={() => put(USUAL)}>Compare costs</PlainButton>
				<Soft>Left out while nobody asks for them. Whatever they say, it is no opinion on who pays.</Soft>
			</Row>
		);
	}
	const money = (x: number) => `${x.toFixed(0)} ${costs.currency ?? ""}`.trim();
	return (
		<Stack $gap={10}>
			<Columns>
				{FIGURES.map(([field, label]) => (
					<NumberBox
						key={field}
						label={label}
						value={costs[field]}
						least={0}
						error={editing.wrong[`costs.${field}`]}
						onChange={(n) => put({ ...costs, [field]: n ?? 0 })}
					/>
				))}
				<Field
					label="In what money"
					value={costs.currency ?? ""}
					onChange={(currency) => put({ ...costs, currency }, false)}
					onBlur={() => editing.keep()}
				/>
			</Columns>
			<Table>
				<thead>
					<tr>
						<th>Slope</th>
						<th>Break-even, hits on 100 sq ft</th>
						<th>Mending at the rate found</th>
						<th>New covering</th>
						<th>What follows</th>
					</tr>
				</thead>
				<tbody>
					{page.account.slopes.map(
						(s) =>
							s.even_sure && (
								<tr key={s.facet}>
									<td>{s.label}</td>
									<td>{s.even_sure.break_even_hits_per_100sqft.toFixed(1)}</td>
									<td>{money(s.even_sure.repair_cost_at_rate)}</td>
									<td>{money(s.even_sure.replace_cost)}</td>
									<td>{s.verdict}</td>
								</tr>
							),
					)}
				</tbody>
			</Table>
			<Row>
				<QuietButton onPress={() => put(null)}>Leave costs out</QuietButton>
			</Row>
		</Stack>
	);
}
