import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser, Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Row, Stack } from "../../design/layout";
import { NumberBox } from "../../design/numbers";
import { Offered } from "../../parts/Offered";
import { FACES, type FaceKey, nextId, type PartProps, wrongOf } from "./kinds";

/** Masonry with its weeps and joints, and how far cladding stands over the ground. */
export function Cladding({ view, page, walls, editing }: PartProps) {
	const masonry = walls.masonry ?? [];
	const set = (id: string, part: Partial<Schemas["MasonryRecord"]>, now = false) => {
		const next = { ...walls, masonry: masonry.map((m) => (m.id === id ? { ...m, ...part } : m)) };
		if (now) editing.keep(next);
		else editing.type(next);
	};
	const add = () =>
		editing.keep({
			...walls,
			masonry: [
				...masonry,
				{
					id: nextId("M", masonry),
					face: masonry.at(-1)?.face ?? "front",
					name: "",
					length: "4 m",
					weeps: 0,
					joints: "",
					stray_holes: 0,
					painted: false,
				},
			],
		});
	return (
		<>
			<h2>Masonry: weeps and joints</h2>
			<p>Open holes that are no weeps are sealed; weeps never.</p>
			{masonry.map((m) => {
				const wrong = wrongOf(editing, `masonry.${m.id}`);
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
							<Field
								label="What it is called"
								value={m.name ?? ""}
								onChange={(name) => set(m.id, { name })}
								onBlur={() => editing.keep()}
								error={wrong("name")}
							/>
							<Field
								label="How long"
								value={m.length}
								onChange={(length) => set(m.id, { length })}
								onBlur={() => editing.keep()}
								error={wrong("length")}
							/>
							<NumberBox
								label="Open weeps at its foot"
								value={m.weeps ?? 0}
								least={0}
								most={1000}
								onChange={(n) => set(m.id, { weeps: n ?? 0 }, true)}
								error={wrong("weeps")}
							/>
							<Field
								label="Movement joints, from its left end: 3 m, 9 m"
								value={m.joints ?? ""}
								onChange={(joints) => set(m.id, { joints })}
								onBlur={() => editing.keep()}
								error={wrong("joints")}
							/>
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
							<QuietButton onPress={() => editing.keep({ ...walls, masonry: masonry.filter((o) => o.id !== m.id) })}>
								Take {m.id} out
							</QuietButton>
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
