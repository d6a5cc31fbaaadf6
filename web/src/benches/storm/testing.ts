// What the storm bench is given in its tests: a server that keeps and counts what it needs to.
import { JOB, serve } from "../../testing";
import type { StormPage, Visit } from "./Storm";

export const square = (id: string, more = {}) => ({
	id,
	slope: "A.+v",
	seed: 7,
	wide: "10 ft",
	high: "10 ft",
	moved: null,
	how: "hand",
	counted: false,
	unplaced: 0,
	largest: "",
	hits: [],
	...more,
});
const SVG = '<svg viewBox="0 0 344 344" data-left="22" data-top="22" data-wide="300" data-high="300"></svg>';

export const slope = (facet: string, label: string, more: object = {}) => ({
	facet,
	label,
	face: "rear",
	usual: "bruise",
	how: null,
	advice: "Walk",
	advice_why: [],
	how_why: "",
	...more,
});

/** What differs from a server that has nothing to say: of the account, of the page, or a route of its own. */
interface Of {
	account?: (storm: Visit) => object;
	page?: object;
	more?: Parameters<typeof serve>[0];
}

/** What the server would say of a count; only what the page needs of it. */
function page(storm: Visit, rev: number, of: Of): StormPage {
	const squares = (storm.squares ?? []).map((q) => ({
		id: q.id,
		slope: q.slope,
		counted: q.counted,
		sure: (q.unplaced ?? 0) + (q.hits ?? []).filter((h) => !h.unsure && h.kind !== "other").length,
		doubtful: (q.hits ?? []).filter((h) => h.unsure).length,
		words: "",
		marks: [],
		corners: [],
	}));
	const account = {
		squares,
		slopes: [slope("A.+v", "rear slope")],
		soft: [],
		said: [],
		offered: [],
		problems: [],
		unreached: [],
		cautions: ["Nobody goes up in wind."],
		row_words: [],
		mends: [],
		...of.account?.(storm),
	};
	return {
		storm,
		rev,
		account,
		plan: null,
		rates: null,
		soft: null,
		drawn: (storm.squares ?? []).map((q) => ({ square: q.id, svg: SVG })),
		signs: [],
		...of.page,
	} as unknown as StormPage;
}

/** Keeps what it is sent; gives what is kept by now. */
export function server(start: object, of: Of = {}) {
	let kept = start as Visit;
	let rev = 1;
	const path = `/jobs/${JOB}/storm`;
	serve({
		[`GET ${path}`]: () => page(kept, rev, of),
		[`POST ${path}/try`]: (b) => page(b as Visit, rev, of),
		[`PUT ${path}`]: (b) => {
			kept = (b as { body: Visit }).body;
			rev += 1;
			return { id: JOB, rev, body: kept };
		},
		...of.more,
	});
	return () => kept;
}

export const view = { job: { id: JOB, body: { brief: {} } }, notes: [], pictures: [], units: "metric" };
