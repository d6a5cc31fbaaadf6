import type { Schemas } from "../../api/client";

export type RainPage = Schemas["RainPage"];

/** Where water that leaves a roof by a pipe or an opening ends. */
export const ENDS = [
	{ id: "ground", name: "On the ground" },
	{ id: "lower-roof", name: "On a lower roof" },
	{ id: "pipe-to-daylight", name: "In a pipe to daylight" },
	{ id: "buried-pipe", name: "In a buried pipe, end unknown" },
	{ id: "nowhere", name: "Nowhere: no downspout" },
];
