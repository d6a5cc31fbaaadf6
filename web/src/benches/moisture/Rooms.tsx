import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Drawing } from "../../design/Drawing";
import { Field } from "../../design/fields";
import { Columns, Folded, Row, Soft, Stack } from "../../design/layout";
import { hairline } from "../../design/tokens";
import { nextId, rowsOf } from "../../parts/rows";
import { useShown } from "../../parts/units";
import type { PartProps } from "./Moisture";

type Room = Schemas["Room"];
const One = styled(Stack)`border-bottom: ${hairline}; padding-bottom: 10px;`;

/** Rooms as they are taped, on the plan of the building. */
export function Rooms({ page, editing }: PartProps) {
	const u = useShown();
	const list = rowsOf<Schemas["Moisture"], "rooms", Room>(editing, "rooms");
	const [long, short] = [u.start("4 m", "12 ft"), u.start("3 m", "10 ft")];
	const add = () =>
		list.add({
			id: nextId("K", list.rows),
			name: "room",
			x: u.start("0.3 m", "1 ft"),
			y: u.start("0.3 m", "1 ft"),
			floor: "",
			height: list.rows.at(-1)?.height ?? u.start("2.5 m", "8 ft"),
			walls: [long, short, long, short].map((length) => ({ length, turn: "" })),
		});
	return (
		<>
			{page.plan && <Drawing svg={page.plan} most="340px" />}
			{list.rows.map((r) => {
				const account = page.account.rooms.find((a) => a.id === r.id);
				const outer = account?.sides.filter((s) => s.faces_deg != null).map((s) => s.wall) ?? [];
				return (
					<One key={r.id} role="group" aria-label={`Room ${r.name}`}>
						<p>
							<b>{r.name}</b>{" "}
							{account?.problem ??
								(account && (
									<Soft>
										{u.area(account.area_m2)}
										{outer.length > 0 &&
											`; ${outer.length === 1 ? "wall" : "walls"} ${outer.join(" and ")} ${outer.length === 1 ? "is" : "are"} outside`}
									</Soft>
								))}
						</p>
						<Folded head="Place and walls">
							<Columns>
								<Field label="Called" {...list.text(r, "name")} />
								<Field label="First corner, from the building's left end" {...list.text(r, "x")} />
								<Field label="First corner, from its front" {...list.text(r, "y")} />
								<Field label="Floor to ceiling" {...list.text(r, "height")} />
								<Field label="Its floor above the ground floor" {...list.text(r, "floor")} />
							</Columns>
							<Soft>
								Stand in the front left corner and tape along the front wall to the right; then keep turning left. Walls are
								numbered as they are walked.
							</Soft>
							{r.walls.map((w, k) => {
								const wall = (part: Partial<Schemas["RoomWall"]>) =>
									list.set(r.id, { walls: r.walls.map((o, i) => (i === k ? { ...o, ...part } : o)) });
								return (
									// biome-ignore lint/suspicious/noArrayIndexKey: walls are numbered as they are walked
									<Row key={k} $gap={10} role="group" aria-label={`Wall ${k + 1}`}>
										<b>{k + 1}</b>
										<Field
											label="Length"
											value={w.length}
											onChange={(length) => wall({ length })}
											onBlur={() => editing.keep()}
											error={list.wrong(r.id, `walls.${k}.length`)}
										/>
										<Field
											label="Turn after it"
											value={w.turn ?? ""}
											placeholder="90"
											onChange={(turn) => wall({ turn })}
											onBlur={() => editing.keep()}
											error={list.wrong(r.id, `walls.${k}.turn`)}
										/>
										<QuietButton onPress={() => list.set(r.id, { walls: r.walls.filter((_, i) => i !== k) }, true)}>
											Take wall {k + 1} out
										</QuietButton>
									</Row>
								);
							})}
							<Row $gap={8}>
								<PlainButton
									onPress={() => list.set(r.id, { walls: [...r.walls, { length: u.start("1 m", "3 ft"), turn: "" }] }, true)}
								>
									Add a wall
								</PlainButton>
								<QuietButton onPress={() => list.remove(r.id)}>Take {r.name} out</QuietButton>
							</Row>
						</Folded>
					</One>
				);
			})}
			<Row>
				<PlainButton onPress={add}>Tape a room</PlainButton>
			</Row>
		</>
	);
}
