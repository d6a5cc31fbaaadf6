import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Folded, Row, Soft, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import { firstPlace, OnSurface } from "../../parts/OnSurface";
import { nextId, rowsOf } from "../../parts/rows";
import { Table } from "../../parts/Table";
import { useShown } from "../../parts/units";
import type { PartProps } from "./Trace";

const Sheet = styled.div`overflow-x: auto; table { min-width: 640px; }`;
type Answer = Schemas["CandidateAnswer"];
const STATES = [
	{ id: "open", name: "Open" },
	{ id: "doubtful", name: "Doubtful" },
	{ id: "unseen", name: "Not seen" },
	{ id: "sound", name: "Sound" },
];
const KINDS = [
	{ id: "roof-detail", name: "Detail of a roof" },
	{ id: "roof-field", name: "Covering of a roof" },
	{ id: "wall-opening", name: "Opening in a wall" },
	{ id: "wall-field", name: "Crack or joint in a wall" },
	{ id: "pond", name: "Standing water" },
	{ id: "let-go", name: "Downspout let go" },
	{ id: "spray-head", name: "Spray head" },
	{ id: "plumbing", name: "Pipe, drain or appliance" },
	{ id: "condensation", name: "Condensation" },
];
const FROM: { [f in Schemas["FoundOn"]]: string } = {
	round: "Round",
	roof: "Roof",
	rainwater: "Rainwater",
	ground: "Ground",
	walls: "Walls",
	rival: "always possible",
	hand: "by hand",
};

/** Everything that may let water in, gathered from the benches: how each stands, what is struck, what is added. */
export function List({ page, editing, traced, rooms }: PartProps) {
	const answers = editing.draft.answers ?? [];
	const put = (candidate: string, part: Partial<Answer>, now: boolean) => {
		const before = answers.find((a) => a.candidate === candidate);
		const next = { state: null, struck: "", repair_minutes: null, ...before, candidate, ...part };
		const rest = answers.filter((a) => a.candidate !== candidate);
		const body = { ...editing.draft, answers: [...rest, next] };
		if (now) editing.keep(body);
		else editing.type(body);
	};
	const p = (id: string) => traced?.candidates.find((c) => c.id === id)?.p ?? 0;
	const sorted = [...page.account.list].sort((a, b) => p(b.candidate.id) - p(a.candidate.id));
	const [all, setAll] = useState(false);
	const shown = all ? sorted : sorted.slice(0, 7);
	return (
		<Folded head={`The list: ${sorted.length} places water may come in`}>
			<Sheet>
				<Table aria-label="Candidates">
					<thead>
						<tr>
							<th>What</th>
							<th>Found</th>
							<th className="n">Here</th>
							<th>How it stands</th>
							<th>Struck because</th>
							<th>Mending, min</th>
						</tr>
					</thead>
					<tbody>
						{shown.map((g) => {
							const id = g.candidate.id;
							const a = answers.find((x) => x.candidate === id);
							return (
								<tr key={id}>
									<td>
										{g.candidate.label ?? id}
										<br />
										<Soft>{g.why}</Soft>
									</td>
									<td>{FROM[g.found_on]}</td>
									<td className="n">{g.struck ? "struck" : `${(p(id) * 100).toFixed(0)} %`}</td>
									<td>
										<Chooser
											label={`How ${g.candidate.label ?? id} stands`}
											hideLabel
											choices={STATES}
											value={g.candidate.state}
											onChange={(s) => s && put(id, { state: s as "open" }, true)}
										/>
									</td>
									<td>
										<Field
											label="Why it is out of the question"
											value={a?.struck ?? ""}
											onChange={(struck) => put(id, { struck }, false)}
											onBlur={() => editing.keep()}
											error={editing.wrong[`answers.${id}.struck`]}
										/>
									</td>
									<td>
										<NumberBox
											label="Mending takes"
											value={a?.repair_minutes ?? null}
											least={1}
											most={100000}
											onChange={(m) => put(id, { repair_minutes: m }, true)}
											error={editing.wrong[`answers.${id}.repair_minutes`]}
										/>
									</td>
								</tr>
							);
						})}
					</tbody>
				</Table>
			</Sheet>
			{sorted.length > 7 && (
				<QuietButton onPress={() => setAll(!all)}>{all ? "Show the likeliest only" : `Show all ${sorted.length}`}</QuietButton>
			)}
			<Added editing={editing} rooms={rooms} />
		</Folded>
	);
}

function Added({ editing, rooms }: Pick<PartProps, "editing" | "rooms">) {
	const u = useShown();
	const list = rowsOf<Schemas["Trace"], "added", Schemas["AddedCandidate"]>(editing, "added");
	return (
		<Stack $gap={8}>
			{list.rows.map((c) => (
				<Columns key={c.id} role="group" aria-label={`Added ${c.name}`}>
					<Field label="What it is" {...list.text(c, "name")} />
					<Chooser
						label="Kind"
						choices={KINDS}
						value={c.kind}
						onChange={(k) => k && list.set(c.id, { kind: k as "pond" }, true)}
					/>
					<OnSurface
						place={c.at}
						rooms={rooms}
						roofs
						onChange={(at, now) => list.set(c.id, { at }, now)}
						onBlur={() => editing.keep()}
						wrong={(f) => list.wrong(c.id, f)}
					/>
					<QuietButton onPress={() => list.remove(c.id)}>Take {c.name} off</QuietButton>
				</Columns>
			))}
			<Row>
				<PlainButton
					onPress={() =>
						list.add({
							id: nextId("C", list.rows),
							kind: "wall-field",
							name: "another place",
							state: "doubtful",
							at: firstPlace(u, [], list.rows.at(-1)?.at),
						})
					}
				>
					Put something on the list
				</PlainButton>
			</Row>
		</Stack>
	);
}
