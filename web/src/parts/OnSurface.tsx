import type { Schemas } from "../api/client";
import { Chooser } from "../design/choices";
import { Field } from "../design/fields";
import type { Shown } from "./units";

export type Place = Schemas["OnSurface"];

export const FACES = (["front", "left", "rear", "right"] as const).map((id) => ({
	id,
	name: id.replace(/^./, (x) => x.toUpperCase()),
}));

/** What a place lies on, as one choice: a wall, ceiling or floor of a room, a wall outside, a slope. */
const keyOf = (p: Place) =>
	p.room ? `${p.room}|${p.part}|${p.part === "wall" ? (p.wall ?? 1) : 0}` : `|${p.part}|${p.face ?? "front"}`;

const choicesOf = (rooms: Schemas["Room"][], roofs: boolean) => [
	...rooms.flatMap((r) => [
		...r.walls.map((_, k) => ({ id: `${r.id}|wall|${k + 1}`, name: `${r.name}, wall ${k + 1}` })),
		{ id: `${r.id}|ceiling|0`, name: `${r.name}, ceiling` },
		{ id: `${r.id}|floor|0`, name: `${r.name}, floor` },
	]),
	...FACES.map((f) => ({ id: `|wall|${f.id}`, name: `${f.name} wall, outside` })),
	...(roofs ? FACES.map((f) => ({ id: `|roof|${f.id}`, name: `${f.name} slope` })) : []),
];

const read = (key: string): Partial<Place> => {
	const [room = "", part, n] = key.split("|");
	return room
		? { room, part: part as "wall", wall: Number(n), face: null }
		: { room: "", part: part as "wall", wall: 0, face: n as "front" };
};

interface SurfaceProps {
	label?: string;
	place: Place;
	rooms: Schemas["Room"][];
	roofs?: boolean;
	onChange: (p: Place, now: boolean) => void;
	onBlur: () => void;
	wrong: (field: string) => string | undefined;
}

/** A place on a surface: which one, how far from the left, how high. */
export function OnSurface({ label = "Where", place, rooms, roofs = false, onChange, onBlur, wrong }: SurfaceProps) {
	const flat = place.part === "ceiling" || place.part === "floor";
	return (
		<>
			<Chooser
				label={label}
				choices={choicesOf(rooms, roofs)}
				value={keyOf(place)}
				onChange={(k) => k && onChange({ ...place, ...read(k) }, true)}
			/>
			<Field
				label="From the left"
				value={place.along ?? ""}
				onChange={(along) => onChange({ ...place, along }, false)}
				onBlur={onBlur}
				error={wrong("at.along") ?? wrong("at.room") ?? wrong("at.face")}
			/>
			<Field
				label={flat ? "Toward the rear" : place.part === "roof" ? "Up the slope, on the plan" : "Above the floor"}
				value={place.up ?? ""}
				onChange={(up) => onChange({ ...place, up }, false)}
				onBlur={onBlur}
				error={wrong("at.up") ?? wrong("at.wall")}
			/>
		</>
	);
}

/** The first surface there is to read. */
export const firstPlace = (u: Pick<Shown, "start">, rooms: Schemas["Room"][], like?: Place): Place =>
	like ?? {
		room: rooms[0]?.id ?? "",
		part: "wall",
		wall: rooms[0] ? 1 : 0,
		mass: "",
		face: rooms[0] ? null : "front",
		along: u.start("1 m", "3 ft"),
		up: u.start("0.3 m", "1 ft"),
	};
