import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Field } from "../../design/fields";
import { Columns, Figures, Row, Soft, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import type { Draft } from "../../parts/draft/useDraft";
import { nextId, rowsOf } from "../../parts/rows";
import type { Building } from "./BuildingPage";

const FIGURES = [
	["cost", "Costs each time"],
	["soonest", "Due at the soonest, years"],
	["middle", "In the middle"],
	["latest", "At the latest"],
] as const;

/** What goes into the reserve: the coverings as their lives say, and what a person adds. */
export function Things({ page, editing }: { page: Schemas["BuildingPage"]; editing: Draft<Building> }) {
	const list = rowsOf<Building, "things", Schemas["KeptThing"]>(editing, "things");
	const own = list.rows.map((t) => t.name);
	const coverings = page.account.things.filter((t) => !own.includes(t.name));
	return (
		<section aria-label="What goes into it">
			<h2>What goes into it</h2>
			<Stack $gap={10}>
				{coverings.map((t) => (
					<p key={t.name}>
						{t.name}: <Figures>{t.cost.toFixed(0)}</Figures>{" "}
						<Soft>
							due in {t.due[1]?.toFixed(0)} years ({t.due[0]?.toFixed(0)} to {t.due[2]?.toFixed(0)}); its cost stands on the Roof
							bench of the last visit
						</Soft>
					</p>
				))}
				{list.rows.map((t) => (
					<Columns key={t.id}>
						<Field label={`${t.id}, what it is`} {...list.text(t, "name")} />
						{FIGURES.map(([field, label]) => (
							<NumberBox
								key={field}
								label={label}
								value={t[field] ?? 0}
								onChange={(n) => list.set(t.id, { [field]: n ?? 0 }, true)}
								error={list.wrong(t.id, field)}
							/>
						))}
						<NumberBox
							label="Comes again after, years"
							value={t.again_after ?? null}
							onChange={(n) => list.set(t.id, { again_after: n }, true)}
							error={list.wrong(t.id, "again_after")}
						/>
						<QuietButton onPress={() => list.remove(t.id)}>Take {t.id} out</QuietButton>
					</Columns>
				))}
				<Row>
					<PlainButton
						onPress={() =>
							list.add({
								id: nextId("T", list.rows),
								name: "Something to renew",
								cost: 0,
								soonest: 5,
								middle: 10,
								latest: 15,
								again_after: null,
							})
						}
					>
						Something else that costs
					</PlainButton>
				</Row>
			</Stack>
		</section>
	);
}
