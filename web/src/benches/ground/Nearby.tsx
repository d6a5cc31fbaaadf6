import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { useShown } from "../../parts/units";
import type { GroundPage, GroundRecord } from "./kinds";
import { FACES, type GroundFields, nextName } from "./spots";

type NearbyRecord = Schemas["NearbyRecord"];

const KINDS = [
	{ id: "trunk", name: "Trunk" },
	{ id: "spray-head", name: "Spray head" },
	{ id: "retaining-wall", name: "Retaining wall" },
	{ id: "drain", name: "Drain or gully" },
];

/** What stands and runs nearby, each judged by the practice's distance; and where the claddings end. */
export function Nearby({ page, fields }: { page: GroundPage; fields: GroundFields }) {
	const u = useShown();
	const { draft, type, keep, wrong } = fields;
	const all = draft.nearby ?? [];
	const set = (k: number, part: Partial<NearbyRecord>, now = false) => {
		const next = { ...draft, nearby: all.map((n, i) => (i === k ? { ...n, ...part } : n)) } as GroundRecord;
		if (now) keep(next);
		else type(next);
	};
	const add = () =>
		keep({
			...draft,
			nearby: [
				...all,
				{
					id: nextName(
						"N",
						all.map((n) => n.id),
					),
					kind: "trunk",
					at: { mass: "", face: "front", along: u.start("1 m", "3 ft"), out: u.start("3 m", "10 ft") },
				},
			],
		} as GroundRecord);
	return (
		<section aria-label="Nearby">
			<Row $between>
				<h2>Nearby</h2>
				<PlainButton onPress={add}>Add something nearby</PlainButton>
			</Row>
			<Stack $gap={14}>
				{all.map((n, k) => {
					const of = (part: string) => wrong[`nearby.${n.id}.${part}`];
					return (
						<div key={n.id}>
							<p>{page.account.nearby.find((a) => a.id === n.id)?.sentence ?? n.id}</p>
							<Columns>
								<Chooser
									label="What"
									choices={KINDS}
									value={n.kind}
									onChange={(v) => v && set(k, { kind: v as NearbyRecord["kind"] }, true)}
								/>
								<Chooser
									label="Placed by"
									choices={FACES}
									value={n.at.face ?? "none"}
									onChange={(f) => f && set(k, { at: { ...n.at, face: f === "none" ? null : (f as never) } }, true)}
								/>
								<Field
									label="Along"
									value={n.at.along ?? ""}
									onChange={(along) => set(k, { at: { ...n.at, along } })}
									onBlur={() => keep(draft)}
									error={of("at.along")}
								/>
								<Field
									label="Out"
									value={n.at.out ?? ""}
									onChange={(out) => set(k, { at: { ...n.at, out } })}
									onBlur={() => keep(draft)}
									error={of("at.out")}
								/>
								{(n.kind === "trunk" || n.kind === "retaining-wall") && (
									<Field
										label={n.kind === "trunk" ? "Height when grown" : "Its height"}
										value={n.height ?? ""}
										onChange={(height) => set(k, { height })}
										onBlur={() => keep(draft)}
										error={of("height")}
									/>
								)}
								{n.kind === "spray-head" && (
									<>
										<Field
											label={`Its flow: ${u.start("7.5 L/min", "2 gpm")}`}
											value={n.flow_l_min ?? ""}
											onChange={(flow_l_min) => set(k, { flow_l_min })}
											onBlur={() => keep(draft)}
											error={of("flow_l_min")}
										/>
										<Field
											label="Minutes at a time"
											value={n.minutes ?? ""}
											onChange={(minutes) => set(k, { minutes })}
											onBlur={() => keep(draft)}
											error={of("minutes")}
										/>
									</>
								)}
							</Columns>
							<QuietButton onPress={() => keep({ ...draft, nearby: all.filter((_, i) => i !== k) })}>
								Take {n.id} away
							</QuietButton>
						</div>
					);
				})}
				<Cladding page={page} fields={fields} />
			</Stack>
		</section>
	);
}

/** Where the claddings end above the ground: what water must not reach. */
function Cladding({ page, fields }: { page: GroundPage; fields: GroundFields }) {
	const { draft, type, keep, wrong } = fields;
	const lines = draft.cladding ?? [];
	const faces = page.account.faces;
	// One that names no mass is of the first.
	const is = (c: (typeof lines)[number], mass: string, face: string) => (c.mass || faces[0]?.mass) === mass && c.face === face;
	const value = (mass: string, face: string) => lines.find((c) => is(c, mass, face))?.bottom ?? "";
	const set = (mass: string, face: (typeof faces)[number]["face"], bottom: string) => {
		const rest = lines.filter((c) => !is(c, mass, face));
		type({ ...draft, cladding: bottom ? [...rest, { mass, face, bottom }] : rest } as GroundRecord);
	};
	if (faces.length === 0) return null;
	return (
		<div>
			<h3>Where the claddings end</h3>
			<Soft>Height of the lower edge above the floor; below it is negative.</Soft>
			<Columns>
				{faces.map((f) => (
					<Field
						key={f.mass + f.face}
						label={`${f.face.replace(/^./, (x) => x.toUpperCase())} of ${f.mass}`}
						value={value(f.mass, f.face)}
						onChange={(b) => set(f.mass, f.face, b)}
						onBlur={() => keep(draft)}
						error={
							wrong[`cladding.${f.mass}.${f.face}`] ?? (f.mass === faces[0]?.mass ? wrong[`cladding..${f.face}`] : undefined)
						}
					/>
				))}
			</Columns>
		</div>
	);
}
