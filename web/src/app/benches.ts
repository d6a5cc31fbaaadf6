// The benches of a job. Each is fetched by itself, so that the first page is quick; the rest follow as soon as a job is open, so that
// every bench can be gone to while the server is away.
import type { ComponentType } from "react";

export const benches: { [path: string]: () => Promise<ComponentType> } = {
	brief: async () => (await import("../benches/brief/Brief")).Brief,
	round: async () => (await import("../benches/round/Round")).Round,
	roof: async () => (await import("../benches/roof/Roof")).Roof,
	rainwater: async () => (await import("../benches/rainwater/Rainwater")).Rainwater,
	ground: async () => (await import("../benches/ground/Ground")).Ground,
	moisture: async () => (await import("../benches/moisture/Moisture")).Moisture,
	trace: async () => (await import("../benches/trace/Trace")).Trace,
	storm: async () => (await import("../benches/storm/Storm")).Storm,
	walls: async () => (await import("../benches/walls/Walls")).Walls,
	walk: async () => (await import("../benches/round/WalkReview")).WalkReview,
	practice: async () => (await import("../benches/practice/Practice")).Practice,
	return: async () => (await import("../benches/return/Return")).Return,
	report: async () => (await import("../benches/report/Report")).Report,
};

/** The benches that are always in sight, in the order of a visit: the end of the address, and what it is called. */
export const BENCHES = [
	["brief", "Brief"],
	["round", "Round"],
	["roof", "Roof"],
	["rainwater", "Rainwater"],
	["ground", "Ground"],
	["walls", "Walls"],
	["moisture", "Moisture"],
	["trace", "Trace"],
	["storm", "Storm"],
	["return", "Return"],
	["report", "Report"],
	["practice", "Practice"],
] as const;

/** Fetches every bench. One that does not come now is asked for again when it is opened. */
export const fetchAll = () => Promise.allSettled(Object.values(benches).map((bench) => bench()));
