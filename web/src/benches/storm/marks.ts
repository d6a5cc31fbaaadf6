import type { Schemas } from "../../api/client";
import { nextId } from "../../parts/rows";

type Hit = Schemas["HitKept"];

/**
 * The hits of a square with those of a picture in place of what was taken from it before. A mark that still lies where it lay keeps its
 * name and what was said of it; hits from elsewhere are not touched.
 */
export function withMarksOf(hits: Hit[], picture: string, found: Hit[]): Hit[] {
	const before = hits.filter((h) => h.picture === picture);
	const out = hits.filter((h) => h.picture !== picture);
	for (const f of found) {
		const same = before.find((h) => h.x === f.x && h.y === f.y);
		out.push(same ? { ...same, size: f.size || (same.size ?? "") } : { ...f, id: nextId("h", [...hits, ...out]) });
	}
	return out;
}
