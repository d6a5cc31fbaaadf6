import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import type { JobView } from "../../api/queries";
import { QuietButton } from "../../design/buttons";
import { Drawing } from "../../design/Drawing";
import { Hazard, Row, Soft } from "../../design/layout";
import { TabBar } from "../../design/TabBar";
import { hairline } from "../../design/tokens";
import { Offered } from "../../parts/Offered";
import { Table } from "../../parts/Table";
import { useShown } from "../../parts/units";
import { Changes } from "./Changes";
import { FlatFields } from "./FlatFields";

const Box = styled.section`border-top: ${hairline}; padding-top: 12px;`;
const Narrow = styled.div`max-width: 620px;`;
const Aside = styled.div`overflow-x: auto;`;
const Scroll = styled.div`overflow-x: auto; > div { min-width: 480px; max-width: 690px; }`;

export interface FlatProps {
	view: JobView;
	/** As it is kept or typed. */
	flat: Schemas["FlatRoof"];
	name: string;
	/** It was just begun: its fields stand open. */
	begun: boolean;
	account: Schemas["FlatAccount"] | undefined;
	drawings: Schemas["FlatDrawings"] | undefined;
	eaves: Schemas["EaveAccount"][];
	remedies: Schemas["RoofRemedy"][] | undefined;
	wrong: { [field: string]: string };
	set: (part: Partial<Schemas["FlatRoof"]>, now?: boolean) => void;
	keep: () => void;
	remove: () => void;
}

const STATES = [
	{ id: "rain", name: "In the rain" },
	{ id: "blocked", name: "Outlets blocked" },
	{ id: "after", name: "After the rain" },
] as const;

/** One flat roof: how deep water stands on it and what that weighs, in the rain, with its outlets blocked, and after it. */
export function Flat(props: FlatProps) {
	const { view, flat, name, begun, account, drawings, remedies } = props;
	const u = useShown();
	const [open, setOpen] = useState(begun || account?.problem != null);
	const [state, setState] = useState<(typeof STATES)[number]["id"]>("rain");
	const there = STATES.filter((s) => drawings?.[s.id]);
	const shown = there.find((s) => s.id === state) ?? there[0];
	return (
		<Box aria-label={`Flat roof of the ${name}`}>
			<Row $between>
				<h3>
					Flat roof of the {name}{" "}
					<Soft>
						{account && account.plan_m2 > 0 && u.area(account.plan_m2)}
						{account && account.from_above_m2 > 0.05 && `, and ${u.area(account.from_above_m2)} pour on it from above`}
					</Soft>
				</h3>
				<QuietButton aria-expanded={open} onPress={() => setOpen(!open)}>
					{open ? "Done" : "Change"}
				</QuietButton>
			</Row>
			<p>{account?.sentence}</p>
			{account?.caution && (
				<p>
					<Hazard>Hazard.</Hazard> {account.caution}
				</p>
			)}
			{shown && (
				<TabBar
					label={`States of the flat roof of the ${name}`}
					tabs={there.map((s) => ({ id: s.id, name: s.name }))}
					chosen={shown.id}
					onChoose={(k) => setState(k as typeof state)}
				>
					<Narrow>
						<Drawing svg={drawings?.[shown.id] ?? ""} most="430px" />
					</Narrow>
				</TabBar>
			)}
			{drawings?.hour && (
				<Scroll>
					<Drawing svg={drawings.hour} />
				</Scroll>
			)}
			{account && account.outlets.length > 0 && (
				<Aside>
					<Table aria-label={`Outlets of the flat roof of the ${name}`}>
						<thead>
							<tr>
								<th>Outlet</th>
								<th className="n">Takes</th>
								<th className="n">Water over its sill</th>
								<th className="n">Keeps back</th>
								<th>Lets go</th>
							</tr>
						</thead>
						<tbody>
							{account.outlets.map((o) => (
								<tr key={o.name}>
									<td>{o.name.replace(/^./, (x) => x.toUpperCase())}</td>
									<td className="n">{o.blocked ? "blocked" : u.flow(o.l_min)}</td>
									<td className="n">{u.depth(o.head_m)}</td>
									<td className="n">{u.depth(o.sill_over_bottom_m)}</td>
									<td>{o.onto ? `to ${o.onto}` : o.ends}</td>
								</tr>
							))}
						</tbody>
					</Table>
				</Aside>
			)}
			<Offered view={view} offered={account?.offered ?? []} name="Offered as notes" />
			<Changes
				view={view}
				label={`What would help the flat roof of the ${name}`}
				of={account?.label ?? name}
				place={{ face: "front", zone: "roof", station: account?.label ?? name }}
				changes={(remedies ?? []).map((r) => ({ words: r.words, sentence: r.sentence }))}
			/>
			{open && <FlatFields {...props} flat={flat} />}
		</Box>
	);
}
