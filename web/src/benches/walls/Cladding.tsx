import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import { Offered } from "../../parts/Offered";
import { useShown } from "../../parts/units";
import { FACES, type FaceKey, nextId, type PartProps, rowsOf, type Walls } from "./kinds";

/** Masonry with its weeps and joints, and how far cladding stands over the ground. */
export function Cladding({ view, page, editing }: PartProps) {
	const u = useShown();
	const list = rowsOf<Walls, "masonry", Schemas["MasonryRecord"]>(editing, "masonry");
	const { rows: masonry, set } = list;
	const add = () =>
		list.add({
			id: nextId("M", masonry),
			face: masonry.at(-1)?.face ?? "front",
			name: "",
			length: u.start("4 m", "12 ft"),
			weeps: 0,
			joints: "",
			stray_holes: 0,
			painted: false,
		});
	return (
		<>
			<h2>Masonry: weeps and joints</h2>
			<p>Open holes that are no weeps are sealed; weeps never.</p>
			{masonry.map((m) => {
				const a = page.account.masonry.find((x) => x.id === m.id);
				return (
					<Stack key={m.id} role="group" aria-label={`Masonry ${m.id}`}>
						<Columns>
							<Chooser
								label="Face"
								choices={FACES}
								value={m.face}
								onChange={(f) => f && set(m.id, { face: f as FaceKey }, true)}
							/>
							<Field label="What it is called" {...list.text(m, "name")} />
							<Field label="How long" {...list.text(m, "length")} />
							<NumberBox
								label="Open weeps at its foot"
								value={m.weeps ?? 0}
								least={0}
								most={1000}
								onChange={(n) => set(m.id, { weeps: n ?? 0 }, true)}
								error={list.wrong(m.id, "weeps")}
							/>
							<Field label="Movement joints, from its left end: 3 m, 9 m" {...list.text(m, "joints")} />
							<NumberBox
								label="Open holes that are no weeps"
								value={m.stray_holes ?? 0}
								least={0}
								most={1000}
								onChange={(n) => set(m.id, { stray_holes: n ?? 0 }, true)}
							/>
						</Columns>
						<Row $gap={12}>
							<Tick value={m.painted ?? false} onChange={(painted) => set(m.id, { painted }, true)}>
								Painted
							</Tick>
							<QuietButton onPress={() => list.remove(m.id)}>Take {m.id} out</QuietButton>
						</Row>
						{a && (
							<>
								<p>{a.weeps}</p>
								<p>{a.joints}</p>
								{a.more.map((x) => (
									<p key={x}>{x}</p>
								))}
								<Offered view={view} offered={a.offered} name={`What may be noted of ${m.id}`} />
							</>
						)}
					</Stack>
				);
			})}
			<Row>
				<PlainButton onPress={add}>Add masonry</PlainButton>
			</Row>
			<h2>Cladding over the ground</h2>
			{page.account.clearances.length === 0 ? (
				<p>No clearance is known yet: read the foot of the cladding on the Ground bench.</p>
			) : (
				<ul>
					{page.account.clearances.map((c) => (
						<li key={c}>{c}</li>
					))}
				</ul>
			)}
		</>
	);
}
