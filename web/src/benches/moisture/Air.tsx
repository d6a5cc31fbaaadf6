import type { Schemas } from "../../api/client";
import { readAir } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { NumberBox } from "../../design/numbers";
import { firstPlace } from "../../parts/OnSurface";
import { nextId, rowsOf } from "../../parts/rows";
import { UnitBox } from "../../parts/UnitBox";
import { useShown } from "../../parts/units";
import { asked } from "./Meter";
import type { PartProps } from "./Moisture";

type AirRow = Schemas["AirRecord"];

/** The air of rooms, attic and outside, and what it does at the coldest surface. */
export function Air({ view, page, editing, rooms, day }: PartProps) {
	const list = rowsOf<Schemas["Moisture"], "air", AirRow>(editing, "air");
	const u = useShown();
	const places = [
		...rooms.map((r) => ({ id: `room|${r.id}`, name: r.name })),
		{ id: "outside|", name: "Outside" },
		{ id: "attic|", name: "Attic" },
		{ id: "crawl|", name: "Crawl space" },
	];
	const add = (row: Partial<AirRow>) =>
		list.add((all) => ({
			id: nextId("A", all),
			place: "room",
			room: rooms[0]?.id ?? "",
			t_c: 20,
			rh_pct: 50,
			on: day,
			...row,
		}));
	const read = async (room: string) => {
		try {
			const a = await readAir(view.job.id, asked({ ...firstPlace(u, rooms), room, part: "floor", along: "1 m", up: "1 m" }));
			add({ room, t_c: a.t_c, rh_pct: a.rh_pct, surface_c: a.surface_c });
			say(a.words);
		} catch (e) {
			say((e as Error).message, { wrong: true });
		}
	};
	return (
		<>
			{page.account.air_says.map((s) => (
				<p key={s}>
					<b>{s}</b>
				</p>
			))}
			{list.rows.map((a) => {
				const said = page.account.air.find((x) => x.id === a.id);
				const box = (label: string, field: "t_c" | "rh_pct" | "surface_c", least: number, most: number) => {
					const of = {
						label,
						value: a[field] ?? null,
						least,
						most,
						onChange: (v: number | null) => {
							if (v != null || field === "surface_c") list.set(a.id, { [field]: v }, true);
						},
						error: list.wrong(a.id, field),
					};
					return field === "rh_pct" ? <NumberBox {...of} /> : <UnitBox of="temperature" {...of} />;
				};
				return (
					<Stack key={a.id} $gap={4} role="group" aria-label={`Air ${a.id}`}>
						<p>
							<b>{said?.name ?? a.id}</b> <Soft>{a.on}</Soft> {said?.sentence}
						</p>
						<Row $gap={10}>
							<Chooser
								label="Where"
								choices={places}
								value={`${a.place ?? "room"}|${a.place === "room" || !a.place ? (a.room ?? "") : ""}`}
								onChange={(p) => {
									const [place, room] = (p ?? "").split("|");
									if (place) list.set(a.id, { place: place as "room", room: room ?? "" }, true);
								}}
							/>
							{box("Temperature", "t_c", -50, 80)}
							{box("Humidity, %", "rh_pct", 0, 100)}
							{box("Coldest surface", "surface_c", -50, 80)}
							<QuietButton onPress={() => list.remove(a.id)}>Take {a.id} out</QuietButton>
						</Row>
					</Stack>
				);
			})}
			<Row $gap={8}>
				<PlainButton onPress={() => add({})}>Add a reading of the air</PlainButton>
				{rooms.map((r) => (
					<QuietButton key={r.id} onPress={() => void read(r.id)}>
						Read the hygrometer in {r.name} (simulated)
					</QuietButton>
				))}
			</Row>
		</>
	);
}
