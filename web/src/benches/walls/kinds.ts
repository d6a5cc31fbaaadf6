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

export { FACES } from "../../parts/OnSurface";
export type FaceKey = Schemas["Face"];

export { nextId, rowsOf } from "../../parts/rows";
