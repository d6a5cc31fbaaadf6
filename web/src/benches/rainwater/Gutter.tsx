import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import type { JobView } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { hairline, tone } from "../../design/tokens";
import { Offered } from "../../parts/Offered";
import { Table } from "../../parts/Table";
import { useShown } from "../../parts/units";
import { Changes } from "./Changes";
import type { RainPage } from "./kinds";
import { LetsGo } from "./LetsGo";

type Record = Schemas["GutterRecord"];
type Outlet = Schemas["OutletRecord"];

const Box = styled.section`border-top: ${hairline}; padding-top: 12px;`;
const Scroll = styled.div`overflow-x: auto; > div { min-width: 480px; max-width: 760px; }`;
const FORMS = [
	{ id: "half-round", name: "Half round" },
	{ id: "box", name: "Box" },
	{ id: "ornamental", name: "Ornamental front" },
];
const INSIDES = [
	{ id: "clean", name: "Clean" },
	{ id: "aged", name: "Aged, a little silt" },
	{ id: "debris", name: "Debris, or a guard that sheds" },
];
interface GutterProps {
	view: JobView;
	page: RainPage;
	gutter: Record;
	account: Schemas["GutterAccount"] | undefined;
	section: string | undefined;
	remedies: Schemas["Remedy"][] | undefined;
	wrong: { [field: string]: string };
	set: (part: Partial<Record>, now?: boolean) => void;
	keep: () => void;
	remove: () => void;
}

/** One gutter: how it stands in the rain, what is wrong, what would end it, and how it was met. */
export function Gutter({ view, page, gutter: g, account, section, remedies, wrong, set, keep, remove }: GutterProps) {
	const u = useShown();
	const [open, setOpen] = useState(false);
	const eave = page.account.eaves.find((e) => e.key === g.eave);
	const of = (part: string) => wrong[`gutters.${g.id}.${part}`];
	const outlets = g.outlets ?? [];
	const setOutlet = (k: number, part: Partial<Outlet>, now = false) =>
		set({ outlets: outlets.map((o, i) => (i === k ? { ...o, ...part } : o)) }, now);
	return (
		<Box aria-label={`Gutter ${g.id}`}>
			<Row $between>
				<h3>
					{g.id} {g.name}{" "}
					<Soft>
						{eave?.label}
						{g.round.length > 0 && `, round ${g.round.length === 1 ? "a corner" : `${g.round.length} corners`}`}
					</Soft>
				</h3>
				<QuietButton aria-expanded={open} onPress={() => setOpen(!open)}>
					{open ? "Done" : "Change"}
				</QuietButton>
			</Row>
			<p>{account?.sentence}</p>
			{section && (
				<Scroll>
					<Drawing svg={section} />
				</Scroll>
			)}
			{(account?.outlets ?? []).map((o) => (
				<p key={o.x_m}>
					<Soft>
						Outlet {u.length(o.x_m, 1)} from the left end: {u.flow(o.l_min)}, let go {o.ends}.
					</Soft>
				</p>
			))}
			{(account?.flights ?? [])
				.filter((f) => open || !f.result.caught)
				.map((f) => (
					<p key={f.what + f.x_m} style={{ color: tone.ochre }}>
						{f.sentence}
					</p>
				))}
			<Offered view={view} offered={account?.offered ?? []} name="Offered as notes" />
			{remedies?.length === 0 && <Soft>Nothing has to be changed here.</Soft>}
			<Changes
				view={view}
				label="What would end it"
				of={g.id ?? ""}
				place={{ face: eave?.face ?? "front", zone: "edge", station: g.id ?? null }}
				changes={(remedies ?? []).map((r) => ({ words: r.words, sentence: r.sentence, falls_short: !r.ends_it, cost: r.cost }))}
			/>
			{open && (
				<Stack style={{ marginTop: 10 }}>
					<Columns>
						<Field label="What people call it" value={g.name ?? ""} onChange={(name) => set({ name })} onBlur={keep} />
						<Chooser
							label="Under the eave"
							choices={page.account.eaves.map((e) => ({ id: e.key, name: e.label }))}
							value={g.eave ?? null}
							onChange={(k) => k && set({ eave: k }, true)}
						/>
						{g.round.map((key, i) => (
							<Row key={key} $gap={4}>
								<Soft>
									then round the corner along the {page.account.eaves.find((e) => e.key === key)?.label ?? "eave that is gone"}
								</Soft>
								<QuietButton
									aria-label={`End ${g.id} before this corner`}
									onPress={() => set({ round: g.round.slice(0, i) }, true)}
								>
									End before it
								</QuietButton>
							</Row>
						))}
						<Chooser
							label="It goes on round the corner, to the right, along"
							placeholder="It ends there"
							choices={page.account.eaves
								.filter((e) => e.key !== g.eave && !g.round.includes(e.key) && !e.gutter)
								.map((e) => ({ id: e.key, name: e.label }))}
							value={null}
							onChange={(k) => k && set({ round: [...g.round, k] }, true)}
						/>
						<Chooser
							label="Form"
							choices={FORMS}
							value={g.form ?? "half-round"}
							onChange={(k) => k && set({ form: k as NonNullable<Record["form"]> }, true)}
						/>
						<Field
							label="Width at the rim"
							value={g.width ?? ""}
							onChange={(width) => set({ width })}
							onBlur={keep}
							error={of("width")}
						/>
						{(g.form !== "half-round" || of("depth")) && (
							<Field
								label="Depth to the rim"
								value={g.depth ?? ""}
								onChange={(depth) => set({ depth })}
								onBlur={keep}
								error={of("depth")}
							/>
						)}
						<Chooser
							label="Inside"
							choices={INSIDES}
							value={g.inside ?? "clean"}
							onChange={(k) => k && set({ inside: k as NonNullable<Record["inside"]> }, true)}
						/>
						<Field
							label="Levels: place from the left, how far lower"
							value={g.levels ?? ""}
							onChange={(levels) => set({ levels })}
							onBlur={keep}
							hint={u.start("0 0, 7.5 12 mm: 12 mm lower at 7.5 m", "0 0, 24 ft 1/2 in: 1/2 in lower at 24 ft")}
							error={of("levels")}
						/>
						<Field
							label="Covering reaches past the back of it"
							value={g.past_fascia ?? ""}
							onChange={(past_fascia) => set({ past_fascia })}
							onBlur={keep}
							hint="30 mm while it is not measured"
							error={of("past_fascia")}
						/>
						<Field
							label="Drip edge above its rim"
							value={g.above_rim ?? ""}
							onChange={(above_rim) => set({ above_rim })}
							onBlur={keep}
							hint="30 mm while it is not measured"
							error={of("above_rim")}
						/>
					</Columns>
					{outlets.map((o, k) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: an outlet has no name but its place in the list
						<Columns key={k}>
							<Field
								label={`Outlet ${k + 1}: from the left end`}
								value={o.from_left ?? ""}
								onChange={(from_left) => setOutlet(k, { from_left })}
								onBlur={keep}
								error={of(`outlets.${k}.from_left`) ?? of("outlets")}
							/>
							<Field
								label="Bore: 75 mm or 50 x 75 mm"
								value={o.bore ?? ""}
								onChange={(b) => setOutlet(k, { bore: b })}
								onBlur={keep}
								error={of(`outlets.${k}.bore`)}
							/>
							<Field
								label="Its sill above the floor, of an overflow"
								value={o.up ?? ""}
								placeholder="flush"
								onChange={(up) => setOutlet(k, { up })}
								onBlur={keep}
								error={of(`outlets.${k}.up`)}
							/>
							<LetsGo
								outlet={o}
								eaves={page.account.eaves.filter((e) => e.key !== g.eave)}
								unnamed="Found from the shape"
								wrong={of(`outlets.${k}.distance`)}
								set={(part, now) => setOutlet(k, part, now)}
								keep={keep}
							/>
							<Tick value={o.strainer ?? false} onChange={(strainer) => setOutlet(k, { strainer }, true)}>
								A strainer lies over it
							</Tick>
							<QuietButton onPress={() => set({ outlets: outlets.filter((_, i) => i !== k) }, true)}>
								Take this outlet away
							</QuietButton>
						</Columns>
					))}
					<Row $gap={8}>
						<PlainButton
							onPress={() =>
								set(
									{
										outlets: [
											...outlets,
											{
												from_left: u.start("0 m", "0 ft"),
												bore: u.start("75 mm", "3 in"),
												strainer: false,
												up: "",
												ends: "ground",
												distance: "",
												onto: "",
											},
										],
									},
									true,
								)
							}
						>
							Add an outlet
						</PlainButton>
						<QuietButton onPress={remove}>Take {g.id} down</QuietButton>
					</Row>
					{(account?.allowed ?? []).length > 0 && (
						<Table aria-label={`What the schools allow ${g.id}`}>
							<thead>
								<tr>
									<th>Allowed by</th>
									<th className="n">Water</th>
									<th>What it knows</th>
								</tr>
							</thead>
							<tbody>
								{account?.allowed.map((a) => (
									<tr key={a.school} data-chosen={a.followed}>
										<td>
											{a.name} {a.followed && <Soft>followed</Soft>}
										</td>
										<td className="n">{a.l_s == null ? "–" : u.flowS(a.l_s)}</td>
										<td>{a.why}</td>
									</tr>
								))}
							</tbody>
						</Table>
					)}
				</Stack>
			)}
		</Box>
	);
}
