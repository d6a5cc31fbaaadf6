import type { Schemas } from "../../api/client";
import type { JobView } from "../../api/queries";
import type { Draft } from "../../parts/draft/useDraft";

export type WallsPage = Schemas["WallsPage"];
export type Walls = Schemas["Walls"];

/** What every part of the bench is given. */
export interface PartProps {
	view: JobView;
	/** As it would be with what is typed. */
	page: WallsPage;
	walls: Walls;
	editing: Draft<Walls>;
}

export const FACES = (["front", "left", "rear", "right"] as const).map((id) => ({
	id,
	name: id.replace(/^./, (x) => x.toUpperCase()),
}));
export type FaceKey = (typeof FACES)[number]["id"];

/** The next short name: L1, L2 … */
export const nextId = (letter: string, all: { id: string }[]) =>
	`${letter}${1 + Math.max(0, ...all.map((x) => Number(x.id.slice(1)) || 0))}`;

/** What is wrong with the fields of one thing, by the end of their names. */
export const wrongOf = (editing: Draft<Walls>, of: string) => (field: string) => editing.wrong[`${of}.${field}`];
