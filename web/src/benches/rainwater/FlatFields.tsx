import type { Schemas } from "../../api/client";
import { FACES } from "../../app/where";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { type Shown, useShown } from "../../parts/units";
import type { FlatProps } from "./Flat";
import { LetsGo } from "./LetsGo";

type Height = Schemas["RoofHeight"];
type Outlet = Schemas["RoofOutlet"];
type Face = (typeof FACES)[number];

const FACE_CHOICES = FACES.map((id) => ({ id, name: id.replace(/^./, (x) => x.toUpperCase()) }));
const KINDS = [
	{ id: "inner-drain", name: "Drain in the roof" },
	{ id: "scupper", name: "Scupper through a parapet" },
];

const newOutlet = (u: Shown, kind: Outlet["kind"], face: Face | null): Outlet => ({
	kind,
	overflow: false,
	face: kind === "scupper" ? (face ?? "front") : null,
	from_left: u.start("1 m", "3 ft"),
	from_front: kind === "scupper" ? "" : u.start("1 m", "3 ft"),
	size: kind === "scupper" ? u.start("200 x 100 mm", "8 x 4 in") : u.start("100 mm", "4 in"),
	up: "",
	strainer: kind !== "scupper",
	blocked: false,
	ends: kind === "scupper" ? "ground" : "pipe-to-daylight",
	distance: "",
	onto: "",
});

/** A flat roof as it was met. */
export function FlatFields({ flat, name, eaves, wrong, set, keep, remove }: FlatProps) {
	const u = useShown();
	const of = (part: string) => wrong[`flats.${flat.mass}.${part}`];
	const heights = flat.heights ?? [];
	const outlets = flat.outlets ?? [];
	const setHeight = (k: number, part: Partial<Height>) =>
		set({ heights: heights.map((h, i) => (i === k ? { ...h, ...part } : h)) });
	const setOutlet = (k: number, part: Partial<Outlet>, now = false) =>
		set({ outlets: outlets.map((o, i) => (i === k ? { ...o, ...part } : o)) }, now);
	return (
		<Stack style={{ marginTop: 10 }}>
			{of("mass") && <p role="alert">{of("mass")}</p>}
			<h4>Parapets above the roof</h4>
			<Columns>
				{FACES.map((f) => (
					<Field
						key={f}
						label={`${f.replace(/^./, (x) => x.toUpperCase())} parapet`}
						value={flat.parapets?.[f] ?? ""}
						placeholder="none"
						onChange={(v) => set({ parapets: { ...flat.parapets, [f]: v } })}
						onBlur={keep}
						error={of(`parapets.${f}`)}
					/>
				))}
			</Columns>
			<h4>How it falls</h4>
			<Columns>
				<Field
					label="Fall of the whole"
					value={flat.fall ?? ""}
					placeholder="level"
					hint="1/4 in per ft, or 2 %"
					onChange={(fall) => set({ fall })}
					onBlur={keep}
					error={of("fall")}
				/>
				<Chooser
					label="It falls to the"
					choices={FACE_CHOICES}
					value={flat.toward ?? null}
					onChange={(k) => k && set({ toward: k as Face }, true)}
				/>
			</Columns>
			{of("toward") && <p role="alert">{of("toward")}</p>}
			<Soft>
				Low places, the ridge of a cricket, the roof round a drain: read them with a level, above the roof's edge at the wall
				line; a minus lies below it. Keep clear of unprotected edges, and off a deck that gives underfoot.
			</Soft>
			{heights.map((h, k) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: a height has no name but its place in the list
				<Columns key={k}>
					<Field
						label={`Height ${k + 1}: from the left`}
						value={h.from_left ?? ""}
						onChange={(from_left) => setHeight(k, { from_left })}
						onBlur={keep}
						error={of(`heights.${k}.from_left`)}
					/>
					<Field
						label="From the front"
						value={h.from_front ?? ""}
						onChange={(from_front) => setHeight(k, { from_front })}
						onBlur={keep}
						error={of(`heights.${k}.from_front`)}
					/>
					<Field
						label="Above the edge"
						value={h.height ?? ""}
						hint="-12 mm lies below it"
						onChange={(height) => setHeight(k, { height })}
						onBlur={keep}
						error={of(`heights.${k}.height`)}
					/>
					<QuietButton onPress={() => set({ heights: heights.filter((_, i) => i !== k) }, true)}>
						Take height {k + 1} away
					</QuietButton>
				</Columns>
			))}
			<h4>What lets its water out</h4>
			{outlets.map((o, k) => {
				const scupper = o.kind === "scupper";
				return (
					// biome-ignore lint/suspicious/noArrayIndexKey: an outlet has no name but its place in the list
					<Columns key={k}>
						<Chooser
							label={`Outlet ${k + 1}`}
							choices={KINDS}
							value={o.kind ?? "inner-drain"}
							onChange={(v) =>
								v && setOutlet(k, { ...newOutlet(u, v as Outlet["kind"], o.face ?? null), overflow: o.overflow }, true)
							}
						/>
						{scupper && (
							<Chooser
								label="Through the parapet at the"
								choices={FACE_CHOICES}
								value={o.face ?? null}
								onChange={(v) => v && setOutlet(k, { face: v as Face }, true)}
							/>
						)}
						<Field
							label={scupper ? "From that face's left end, seen from outside" : "From the left, seen from the front"}
							value={o.from_left ?? ""}
							onChange={(from_left) => setOutlet(k, { from_left })}
							onBlur={keep}
							error={of(`outlets.${k}.from_left`)}
						/>
						{!scupper && (
							<Field
								label="From the front"
								value={o.from_front ?? ""}
								onChange={(from_front) => setOutlet(k, { from_front })}
								onBlur={keep}
								error={of(`outlets.${k}.from_front`)}
							/>
						)}
						<Field
							label={scupper ? "Opening: width x height" : "Bore"}
							value={o.size ?? ""}
							onChange={(v) => setOutlet(k, { size: v })}
							onBlur={keep}
							error={of(`outlets.${k}.size`)}
						/>
						<Field
							label="Its sill above the roof there"
							value={o.up ?? ""}
							placeholder="flush"
							onChange={(up) => setOutlet(k, { up })}
							onBlur={keep}
							error={of(`outlets.${k}.up`)}
						/>
						<LetsGo
							outlet={o}
							eaves={eaves}
							unnamed="The roof below it"
							wrong={of(`outlets.${k}.distance`)}
							set={(part, now) => setOutlet(k, part, now)}
							keep={keep}
						/>
						<Stack $gap={2}>
							<Tick value={o.overflow ?? false} onChange={(overflow) => setOutlet(k, { overflow }, true)}>
								An overflow, for when others are blocked
							</Tick>
							<Tick value={o.blocked ?? false} onChange={(blocked) => setOutlet(k, { blocked }, true)}>
								It was blocked
							</Tick>
							{!scupper && (
								<Tick value={o.strainer ?? false} onChange={(strainer) => setOutlet(k, { strainer }, true)}>
									A strainer lies over it
								</Tick>
							)}
						</Stack>
						<QuietButton onPress={() => set({ outlets: outlets.filter((_, i) => i !== k) }, true)}>
							Take outlet {k + 1} away
						</QuietButton>
					</Columns>
				);
			})}
			<Row $gap={8}>
				<PlainButton onPress={() => set({ outlets: [...outlets, newOutlet(u, "inner-drain", null)] }, true)}>
					Add a drain
				</PlainButton>
				<PlainButton
					onPress={() =>
						set({ outlets: [...outlets, newOutlet(u, "scupper", FACES.find((f) => flat.parapets?.[f]) ?? null)] }, true)
					}
				>
					Add a scupper
				</PlainButton>
				<PlainButton
					onPress={() =>
						set(
							{
								heights: [
									...heights,
									{ from_left: u.start("1 m", "3 ft"), from_front: u.start("1 m", "3 ft"), height: u.start("0 mm", "0 in") },
								],
							},
							true,
						)
					}
				>
					Add a height
				</PlainButton>
				<QuietButton onPress={remove}>Forget what was measured on the {name}</QuietButton>
			</Row>
		</Stack>
	);
}
