import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { hairline } from "../../design/tokens";
import type { GroundRecord } from "./kinds";

export type Spot = Schemas["SpotRecord"];
export type FaceName = NonNullable<NonNullable<Spot["at"]>["face"]>;

export interface GroundFields {
	draft: GroundRecord;
	type: (g: GroundRecord) => void;
	keep: (g?: GroundRecord) => void;
	wrong: { [field: string]: string };
}

/** Where something is placed by: a face, or the plan itself. */
export const FACES = [
	{ id: "none", name: "Coordinates of the plan" },
	{ id: "front", name: "Front" },
	{ id: "left", name: "Left" },
	{ id: "rear", name: "Rear" },
	{ id: "right", name: "Right" },
];
export const TOPS = [
	{ id: "soil", name: "Soil, lawn, bed" },
	{ id: "paving", name: "Paving" },
];
export const SOILS = [
	{ id: "sand", name: "Sand or gravel", mm_h: 25 },
	{ id: "loam", name: "Loam", mm_h: 8 },
	{ id: "clay", name: "Clay", mm_h: 1.5 },
];
export const EDGES = [
	{ id: "open", name: "The ground goes on: water leaves" },
	{ id: "closed", name: "Garden walls or kerbs: nothing leaves" },
];
export const UNITS = [
	{ id: "m", name: "Metres" },
	{ id: "mm", name: "Millimetres" },
	{ id: "ft", name: "Feet" },
	{ id: "in", name: "Inches" },
];

export const Panel = styled.section`border-top: ${hairline}; padding-top: 12px;`;
export const Short = styled.div`max-height: 330px; overflow-y: auto; border: ${hairline}; border-radius: 4px;`;

/** The next free name. */
export const nextName = (letter: string, taken: (string | undefined)[]) => {
	let n = taken.length + 1;
	while (taken.includes(`${letter}${n}`)) n += 1;
	return `${letter}${n}`;
};

export const BLANK = { mass: "", face: null, along: "0 m", out: "0 m" };
