// The place that is set: chosen once, known everywhere.
import { createContext, type ReactNode, useContext, useMemo, useState } from "react";
import type { Place } from "../api/queries";

export type Cell = string;
type Face = NonNullable<Place["face"]>;
type Zone = Place["zone"];

export const FACES: Face[] = ["front", "left", "rear", "right"];
/** From the ridge to the ground: the way water goes. */
export const ZONES: Exclude<Zone, "inside">[] = ["roof", "edge", "upper-wall", "openings", "base", "ground"];

/** The place a cell stands for. */
export function placeOf(cell: Cell): Place {
	const [face, zone] = cell.split(".");
	return zone ? { face: face as Face, zone: zone as Zone } : { zone: "inside" };
}

export interface Where {
	cell: Cell;
	setCell: (cell: Cell) => void;
	/** Next or previous face, staying at the same height. */
	walk: (step: 1 | -1) => void;
	/** One zone up or down. */
	climb: (step: 1 | -1) => void;
}

const WhereContext = createContext<Where | null>(null);

export function WhereProvider({ children }: { children: ReactNode }) {
	const [cell, setCell] = useState<Cell>("front.roof");
	const value = useMemo<Where>(() => {
		const [face = "front", zone] = cell === "inside" ? ["front", undefined] : cell.split(".");
		const turn = (list: string[], at: string, by: number) => list[(list.indexOf(at) + by + list.length) % list.length] ?? at;
		return {
			cell,
			setCell,
			walk: (step) => setCell(`${turn(FACES, face, step)}.${zone ?? "roof"}`),
			climb: (step) => {
				if (!zone) return setCell(`${face}.${step > 0 ? "ground" : "roof"}`);
				const i = ZONES.indexOf(zone as (typeof ZONES)[number]) - step;
				setCell(i < 0 || i >= ZONES.length ? "inside" : `${face}.${ZONES[i]}`);
			},
		};
	}, [cell]);
	return <WhereContext.Provider value={value}>{children}</WhereContext.Provider>;
}

export function useWhere(): Where {
	const where = useContext(WhereContext);
	if (!where) throw new Error("useWhere needs a WhereProvider above it");
	return where;
}
