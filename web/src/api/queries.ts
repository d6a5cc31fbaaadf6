// One factory for each question to the server, and one hook for each kind of change.
import {
	keepPreviousData,
	MutationCache,
	type Query,
	QueryClient,
	queryOptions,
	useIsMutating,
	useMutation,
	useMutationState,
	useQuery,
	useQueryClient,
} from "@tanstack/react-query";
import { say } from "../design/Notices";
import { answer, api, type Fault, newId, newKey, queries, type Schemas, sendBytes, under } from "./client";

export type JobView = Schemas["JobPage"];
export type Note = Schemas["Note"];
export type NoteRecord = Schemas["Record_Note"];
export type PictureRecord = Schemas["Record_Picture"];
export type Finding = Schemas["Finding"];
export type Place = Schemas["Place"];
export type CellReport = Schemas["CellReport"];
export type MarkState = Schemas["MarkState"];
export type Item = Schemas["Item"];
export type Practice = Schemas["Practice"];
export type PictureMark = Schemas["PictureMark"];
export type RoofRecord = Schemas["Roof"];
export type Attached = Schemas["Attached"];

/** Faults that pass by themselves: the same request is sent again. */
const passes = (e: unknown) => ["unreachable", "busy"].includes((e as Partial<Fault>).code ?? "");
/** Pauses before that, milliseconds. */
const pause = (failures: number) => Math.min(8000, 500 * 2 ** failures);

export const queryClient = new QueryClient({
	defaultOptions: {
		queries: { staleTime: 5_000, networkMode: "always", retry: (n, e) => n < 2 && passes(e) },
		mutations: { networkMode: "always", retry: (_, e) => passes(e), retryDelay: pause },
	},
	mutationCache: new MutationCache({
		onError: (e) => say(e.message, { wrong: true }),
	}),
});

/** Everything that was asked about a job, or about a building. */
export const ofJob = (job: string) => ({
	predicate: (q: Query) => {
		const path = (q.queryKey[2] as { params?: { path?: { job?: string; building?: string } } } | undefined)?.params?.path;
		return path?.job === job || path?.building === job;
	},
});
const JOBS = { predicate: (q: Query) => q.queryKey[1] === "/jobs" };

const previous = { placeholderData: keepPreviousData };
const forever = { staleTime: Number.POSITIVE_INFINITY };

export const ask = {
	jobs: (most: number) => queries.queryOptions("get", "/jobs", { params: { query: { from: 0, most } } }, previous),
	search: (words: string) => queries.queryOptions("get", "/search", { params: { query: { words } } }, previous),
	practices: () => queries.queryOptions("get", "/practices"),
	tried: (job: string, body: Practice) =>
		queries.queryOptions("post", "/jobs/{job}/practice-tried", { params: { path: { job } }, body }, { retry: false }),
	asItWas: (job: string, seq: number) =>
		queries.queryOptions("get", "/jobs/{job}/then/{seq}", { params: { path: { job, seq } } }, forever),
	roof: (job: string) => queries.queryOptions("get", "/jobs/{job}/roof", { params: { path: { job } } }, previous),
	records: (job: string) =>
		queries.queryOptions("get", "/jobs/{job}/roof/records", { params: { path: { job } } }, { enabled: false, retry: false }),
	rainwater: (job: string, query: { at?: number; x?: number; y?: number }) =>
		queries.queryOptions("get", "/jobs/{job}/rainwater", { params: { path: { job }, query } }, previous),
	walls: (job: string) => queries.queryOptions("get", "/jobs/{job}/walls", { params: { path: { job } } }, previous),
	tryWalls: (job: string, body: Schemas["Walls"] | null) =>
		queries.queryOptions(
			"post",
			"/jobs/{job}/walls/try",
			{ params: { path: { job } }, body: body as Schemas["Walls"] },
			{ enabled: body !== null, retry: false, ...previous },
		),
	moisture: (job: string) => queries.queryOptions("get", "/jobs/{job}/moisture", { params: { path: { job } } }, previous),
	storm: (job: string) => queries.queryOptions("get", "/jobs/{job}/storm", { params: { path: { job } } }, previous),
	tryStorm: (job: string, body: Schemas["StormVisit"] | null) =>
		queries.queryOptions(
			"post",
			"/jobs/{job}/storm/try",
			{ params: { path: { job } }, body: body as Schemas["StormVisit"] },
			{ ...previous, enabled: body !== null },
		),
	trace: (job: string) => queries.queryOptions("get", "/jobs/{job}/trace", { params: { path: { job } } }, previous),
	tryTrace: (job: string, body: Schemas["Trace"] | null) =>
		queries.queryOptions(
			"post",
			"/jobs/{job}/trace/try",
			{ params: { path: { job } }, body: body as Schemas["Trace"] },
			{ enabled: body !== null, retry: false, ...previous },
		),
	/** What would end the spilling: dear, so that it is asked again only when roof, gutters or practice are others. */
	remedies: (job: string, on: string) =>
		queryOptions({
			queryKey: ["remedies", job, on],
			queryFn: ({ signal }) =>
				answer(api.GET("/jobs/{job}/rainwater", { params: { path: { job }, query: { remedies: true } }, signal })),
			...forever,
			enabled: false,
		}),
	tryRainwater: (job: string, body: Schemas["Rainwater"] | null, at: number | null) =>
		queries.queryOptions(
			"post",
			"/jobs/{job}/rainwater/try",
			// Asked only while there is something to try.
			{ params: { path: { job }, query: at === null ? {} : { at } }, body: body as Schemas["Rainwater"] },
			{ ...previous, enabled: body !== null, retry: false },
		),
	ground: (job: string, query: { x?: number; y?: number }) =>
		queries.queryOptions("get", "/jobs/{job}/ground", { params: { path: { job }, query } }, previous),
	tryGround: (job: string, body: Schemas["TriedGround"] | null) =>
		queries.queryOptions(
			"post",
			"/jobs/{job}/ground/try",
			// Asked only while there is something to try.
			{ params: { path: { job } }, body: body as Schemas["TriedGround"] },
			{ ...previous, enabled: body !== null, retry: false },
		),
	mending: (job: string, on: string) =>
		queryOptions({
			queryKey: ["mending", job, on],
			queryFn: ({ signal }) => answer(api.GET("/jobs/{job}/ground/mending", { params: { path: { job } }, signal })),
			...forever,
			retry: false,
		}),
	weather: (job: string) =>
		queries.queryOptions("get", "/jobs/{job}/rainwater/weather", { params: { path: { job } } }, { enabled: false, retry: false }),
	roofChoices: () => queries.queryOptions("get", "/roof-choices", {}, forever),
	wear: (covering: string, sign: string, grade: number) =>
		queries.queryOptions("get", "/wear", { params: { query: { covering, sign, grade } } }, forever),
	job: (job: string) => queries.queryOptions("get", "/jobs/{job}", { params: { path: { job } } }),
	choices: () => queries.queryOptions("get", "/choices", {}, forever),
	history: (job: string) => queries.queryOptions("get", "/jobs/{job}/history", { params: { path: { job } } }),
	reading: (line: string, place: Place, front: number | null, own_words: Schemas["OwnWord"][]) =>
		queries.queryOptions("post", "/calc/note", { body: { line, place, front, own_words } }, { ...forever, gcTime: 60_000 }),
	/** Each mark on a picture, drawn. */
	marks: (marks: Schemas["PictureMark"][], width: number, height: number) =>
		queries.queryOptions("post", "/marks", { body: { marks, width, height } }, { ...previous, gcTime: 60_000, retry: false }),
	report: (job: string, version: number, query: ReportWanted) =>
		queryOptions({
			queryKey: ["report", job, version, query],
			queryFn: ({ signal }) => answer(api.GET("/jobs/{job}/report", { params: { path: { job }, query }, signal })),
		}),
	leaving: (job: string) => queries.queryOptions("get", "/jobs/{job}/leaving", { params: { path: { job } } }, previous),
	sameHouse: (job: string) => queries.queryOptions("get", "/jobs/{job}/building", { params: { path: { job } } }, previous),
	returned: (job: string) =>
		queries.queryOptions("get", "/jobs/{job}/return", { params: { path: { job } } }, { ...previous, retry: false }),
	buildings: () => queries.queryOptions("get", "/buildings", {}, previous),
	building: (building: string) =>
		queries.queryOptions("get", "/buildings/{building}", { params: { path: { building } } }, previous),
};

/** Which cut of the account, on which sheet. */
export interface ReportWanted {
	cut: "full" | "note" | "insurer" | "trade";
	paper: "a4" | "letter";
	trade?: string;
}

export const useJob = (job: string) => useQuery(ask.job(job));
export const useChoices = () => useQuery(ask.choices()).data;

/** An action that was asked for: its key and its moment are made once and kept for its retries. */
interface Action<V> {
	value: V;
	key: string;
	at: string;
}

/** One action at a time can be sent again and again: the server applies it once. */
function useAction<V, R>(
	send: (value: V, key: string, at: string) => Promise<R>,
	settled: () => unknown,
	// Actions of one row go one after the other, in the order they were asked for.
	row: string | null,
) {
	const m = useMutation({
		mutationKey: ["change"],
		...(row ? { scope: { id: row } } : {}),
		mutationFn: (a: Action<V>) => send(a.value, a.key, a.at),
		onSettled: settled,
	});
	const action = (value: V): Action<V> => ({ value, key: newKey(), at: new Date().toISOString() });
	type Then = { onSuccess?: (r: R) => void; onError?: (e: Error) => void };
	return {
		isPending: m.isPending,
		error: m.error,
		// By the promise, not by the hook: what asked may be gone from the page before everything was asked anew, and what follows a change
		// must follow it all the same.
		mutate: (value: V, then: Then = {}) =>
			void m.mutateAsync(action(value)).then(then.onSuccess, then.onError ?? (() => undefined)),
		mutateAsync: (value: V) => m.mutateAsync(action(value)),
	};
}

/** A change to a job: afterwards everything that shows it is asked anew. */
function useChange<V, R>(
	job: string,
	send: (value: V, key: string, at: string) => Promise<R>,
	row: string | null = `job ${job}`,
) {
	const client = useQueryClient();
	return useAction(send, () => Promise.all([client.invalidateQueries(ofJob(job)), client.invalidateQueries(JOBS)]), row);
}

/** How the changes stand that are no drafts: on their way, or waiting for the server. */
export function useChanges(): "kept" | "saving" | "waiting" {
	const busy = useIsMutating({ mutationKey: ["change"] });
	const failures = useMutationState({
		filters: { mutationKey: ["change"], status: "pending" },
		select: (m) => m.state.failureCount,
	});
	if (failures.some((n) => n > 0)) return "waiting";
	return busy > 0 ? "saving" : "kept";
}

/** Keeps a job; used by drafts. */
export const saveJob = (job: string) => (base: number | null, body: Schemas["Job"], key: string) =>
	answer(api.PUT("/jobs/{job}", { params: { path: { job }, ...under(key) }, body: { base, body } }));
/** Keeps a note; used by drafts. */
export const saveNote = (job: string, note: string) => (base: number | null, body: Note, key: string) =>
	answer(api.PUT("/jobs/{job}/notes/{note}", { params: { path: { job, note }, ...under(key) }, body: { base, body } }));
/** Keeps an item; used by drafts. */
export const saveItem = (job: string, item: string) => (base: number | null, body: Item, key: string) =>
	answer(api.PUT("/jobs/{job}/items/{item}", { params: { path: { job, item }, ...under(key) }, body: { base, body } }));
/** Keeps what a person says of a picture; used by drafts. */
export const savePicture =
	(job: string, picture: string) => async (base: number | null, body: Schemas["PictureChange"], key: string) => {
		const params = { path: { job, picture }, ...under(key) };
		const kept = await answer(api.PUT("/jobs/{job}/pictures/{picture}", { params, body: { base, body } }));
		return { rev: kept.rev, body: said(kept.body) };
	};
/** What a person says of a picture. */
export const said = (p: Schemas["Picture"]): Schemas["PictureChange"] => ({
	note_id: p.note_id ?? null,
	place: p.place ?? null,
	caption: p.caption ?? "",
	marks: p.marks ?? [],
	range: p.range ?? null,
});
/** Keeps a roof; used by drafts. */
export const saveRoof = (job: string) => (base: number | null, body: RoofRecord, key: string) =>
	answer(api.PUT("/jobs/{job}/roof", { params: { path: { job }, ...under(key) }, body: { base, body } }));
/** Keeps rain and gutters; used by drafts. */
export const saveRainwater = (job: string) => (base: number | null, body: Schemas["Rainwater"], key: string) =>
	answer(api.PUT("/jobs/{job}/rainwater", { params: { path: { job }, ...under(key) }, body: { base, body } }));
/** Keeps the walls; used by drafts. */
export const saveWalls = (job: string) => (base: number | null, body: Schemas["Walls"], key: string) =>
	answer(api.PUT("/jobs/{job}/walls", { params: { path: { job }, ...under(key) }, body: { base, body } }));
/** Keeps rooms and readings; used by drafts. */
export const saveMoisture = (job: string) => (base: number | null, body: Schemas["Moisture"], key: string) =>
	answer(api.PUT("/jobs/{job}/moisture", { params: { path: { job }, ...under(key) }, body: { base, body } }));
/** Keeps wet spots and what was tried; used by drafts. */
export const saveTrace = (job: string) => (base: number | null, body: Schemas["Trace"], key: string) =>
	answer(api.PUT("/jobs/{job}/trace", { params: { path: { job }, ...under(key) }, body: { base, body } }));
/** The rain before the visit, from the office. */
export const saveStorm = (job: string) => (base: number | null, body: Schemas["StormVisit"], key: string) =>
	answer(api.PUT("/jobs/{job}/storm", { params: { path: { job }, ...under(key) }, body: { base, body } }));

export const askStorms = (job: string) => answer(api.GET("/jobs/{job}/storm/events", { params: { path: { job } } }));

export const askRain = (job: string) => answer(api.GET("/jobs/{job}/trace/rain", { params: { path: { job } } }));
const at = (query: URLSearchParams) => Object.fromEntries(query) as { room?: string };
/** What the hygrometer shows at a place. */
export const readAir = (job: string, query: URLSearchParams) =>
	answer(api.GET("/jobs/{job}/moisture/air", { params: { path: { job }, query: at(query) as never } }));
/** A picture of the thermal camera, from a corner on. */
export const takeHeat = (job: string, query: URLSearchParams) =>
	answer(api.GET("/jobs/{job}/moisture/camera", { params: { path: { job }, query: at(query) as never } }));
/** A picture of heat from a table. */
export const readHeatFile = (text: string, cell_m: number) => answer(api.POST("/moisture/heat-file", { body: { text, cell_m } }));
/** A picture of heat from a PNG of 16 bits of grey; nothing is kept. */
export const readHeatPicture = (file: File, grey: { cell_m: number; zero_c: number; step_c: number }) =>
	sendBytes<Schemas["HeatTaken"]>(
		`/moisture/heat-picture?${new URLSearchParams(Object.entries(grey).map(([k, v]) => [k, String(v)]))}`,
		file,
		newKey(),
	);
/** A rain record from a table; nothing is kept. */
export const readRain = (file: File) =>
	sendBytes<Schemas["RainKept"]>(`/trace/rain-file?${new URLSearchParams({ name: file.name })}`, file, newKey());
/** Keeps the ground; used by drafts. */
export const saveGround = (job: string) => (base: number | null, body: Schemas["Ground"], key: string) =>
	answer(api.PUT("/jobs/{job}/ground", { params: { path: { job }, ...under(key) }, body: { base, body } }));

export function useSaveJob(job: string) {
	return useChange(job, (put: { base: number | null; body: Schemas["Job"] }, key) => saveJob(job)(put.base, put.body, key));
}

export interface NewLine {
	line: string;
	place: Place;
	conditions?: (string | null)[];
	done_right?: boolean;
}
export function useKeepLine(job: string) {
	return useChange(job, (l: NewLine, key, at) =>
		answer(
			api.POST("/jobs/{job}/lines", {
				params: { path: { job }, ...under(key) },
				body: { conditions: [], done_right: false, ...l, at },
			}),
		),
	);
}
/** Keeps a note as it is now, outside a draft. */
export function useSaveNote(job: string) {
	return useChange(job, (n: { id: string; base: number; body: Note }, key) => saveNote(job, n.id)(n.base, n.body, key));
}
export function useDeleteNote(job: string) {
	return useChange(job, (n: { id: string; base: number }, key) =>
		answer(
			api.DELETE("/jobs/{job}/notes/{note}", { params: { path: { job, note: n.id }, query: { base: n.base }, ...under(key) } }),
		),
	);
}
export function useMark(job: string) {
	return useChange(job, async (m: { cell: string; base: number | null; state: MarkState | null }, key): Promise<void> => {
		const path = { job, cell: m.cell };
		if (m.state === null)
			await answer(api.DELETE("/jobs/{job}/marks/{cell}", { params: { path, query: { base: m.base ?? 0 }, ...under(key) } }));
		else
			await answer(
				api.PUT("/jobs/{job}/marks/{cell}", { params: { path, ...under(key) }, body: { base: m.base, body: m.state } }),
			);
	});
}
export function useUndo(job: string) {
	return useChange(job, (_: undefined, key) =>
		answer(api.POST("/jobs/{job}/undo", { params: { path: { job }, ...under(key) } })),
	);
}
export function useRedo(job: string) {
	return useChange(job, (_: undefined, key) =>
		answer(api.POST("/jobs/{job}/redo", { params: { path: { job }, ...under(key) } })),
	);
}
export function useCountItems(job: string) {
	return useChange(job, (c: Schemas["Count"], key) =>
		answer(api.POST("/jobs/{job}/items", { params: { path: { job }, ...under(key) }, body: c })),
	);
}
export function useDeleteItem(job: string) {
	return useChange(job, (i: { id: string; base: number }, key) =>
		answer(
			api.DELETE("/jobs/{job}/items/{item}", { params: { path: { job, item: i.id }, query: { base: i.base }, ...under(key) } }),
		),
	);
}
/** Keeps a place that was chosen while a walk is recorded elsewhere; null when the recording is over. */
export function useKeepStop(job: string) {
	return useChange(job, (place: Place | null, key, at) =>
		answer(
			api.PUT("/jobs/{job}/track/{stop}", {
				params: { path: { job, stop: key }, ...under(key) },
				body: { base: null, body: { at, place } },
			}),
		),
	);
}
/** A note that was made elsewhere: of a walk that was read in, or a recommendation. */
export function useNewNote(job: string) {
	return useChange(job, (n: { id: string; body: Note }, key) => saveNote(job, n.id)(null, n.body, key));
}
/** Reads a file of readings; nothing is kept. */
export const readReadings = (job: string, file: File, how: { unit: string; along?: string; out?: string; height?: string }) => {
	const form = /json$/i.test(file.name) ? "geojson" : "csv";
	const said = Object.entries({ form, ...how }).filter(([, v]) => v) as [string, string][];
	return sendBytes<Schemas["ReadingsFile"]>(`/jobs/${job}/ground/readings?${new URLSearchParams(said)}`, file, newKey());
};
/** What the simulated slope stick shows, laid outward from a reading. */
export const readStick = (job: string, spot: string, length: number) =>
	answer(api.GET("/jobs/{job}/slope-stick", { params: { path: { job }, query: { spot, length } } }));
/** Zeroes the simulated altimeter on a reading. */
export function useZeroAltimeter(job: string) {
	return useMutation({
		mutationFn: (spot: string) => answer(api.POST("/jobs/{job}/altimeter/zero", { params: { path: { job } }, body: { spot } })),
	});
}
/** What was found at a detail; one that is wrong becomes a note as well. */
export function useAnswerDetail(job: string) {
	return useChange(job, (a: { base: number; key: string; answer: Schemas["Answer"] | null }, key, at) =>
		answer(api.POST("/jobs/{job}/roof/answers", { params: { path: { job }, ...under(key) }, body: { ...a, at } })),
	);
}
/** Reads masses from a GeoJSON file; nothing is kept. */
export const readRoofFile = (job: string, file: Blob) => sendBytes<RoofRecord>(`/jobs/${job}/roof/geojson`, file, newKey());
/** Reads a walk file; nothing is kept. */
export const readWalk = (job: string, file: Blob, laid: { track?: string; began?: string } = {}) => {
	const said = Object.entries(laid).filter(([, v]) => v) as [string, string][];
	return sendBytes<Schemas["Walk"]>(`/jobs/${job}/walk?${new URLSearchParams(said)}`, file, newKey());
};
/** Reads a practice file; nothing is kept. */
export const readPractice = (file: Blob) => sendBytes<Practice>("/practices/read", file, newKey());

/** Keeps a practice; used by drafts. */
export const savePractice = (practice: string) => (base: number | null, body: Practice, key: string) =>
	answer(api.PUT("/practices/{practice}", { params: { path: { practice }, ...under(key) }, body: { base, body } }));

/** Keeps a practice: every job may say something else afterwards. */
export function useSavePractice() {
	const client = useQueryClient();
	return useAction(
		(p: { id: string; base: number | null; body: Practice }, key) => savePractice(p.id)(p.base, p.body, key),
		() => client.invalidateQueries(),
		"practices",
	);
}
export function useCloseVisit(job: string) {
	return useChange(job, (c: Schemas["Close"], key) =>
		answer(api.POST("/jobs/{job}/close", { params: { path: { job }, ...under(key) }, body: c })),
	);
}
export function useAttach(job: string) {
	return useChange(
		job,
		(p: { file: File; note?: string | undefined }, key) => {
			const query = new URLSearchParams({ name: p.file.name, ...(p.note ? { note: p.note } : {}) });
			return sendBytes<Attached>(`/jobs/${job}/pictures?${query}`, p.file, key);
			// A large picture over a poor line must not hold up the notes.
		},
		null,
	);
}
export function useSavePicture(job: string) {
	return useChange(job, (p: { id: string; base: number; body: Schemas["PictureChange"] }, key) =>
		savePicture(job, p.id)(p.base, p.body, key),
	);
}
export function useDeletePicture(job: string) {
	return useChange(job, (p: { id: string; base: number }, key) =>
		answer(
			api.DELETE("/jobs/{job}/pictures/{picture}", {
				params: { path: { job, picture: p.id }, query: { base: p.base }, ...under(key) },
			}),
		),
	);
}

/** Keeps what was said with the client; used by drafts. */
export const saveSaid = (job: string, said: string) => (base: number | null, body: Schemas["SaidThing"], key: string) =>
	answer(api.PUT("/jobs/{job}/said/{said}", { params: { path: { job, said }, ...under(key) }, body: { base, body } }));
/** Keeps what was said of the report. */
export function useSay(job: string) {
	return useChange(job, (s: { id: string; base: number | null; body: Schemas["SaidThing"] }, key) =>
		saveSaid(job, s.id)(s.base, s.body, key),
	);
}
/** Makes a link of the client's page, or withdraws it. */
export function useSaveLink(job: string) {
	return useChange(job, (l: { id: string; base: number | null; body: Schemas["ClientLink"] }, key) =>
		answer(
			api.PUT("/jobs/{job}/links/{link}", {
				params: { path: { job, link: l.id }, ...under(key) },
				body: { base: l.base, body: l.body },
			}),
		),
	);
}
/** Sends the report by the post office. */
export function useSend(job: string) {
	return useChange(job, (s: Schemas["Send"], key) =>
		answer(api.POST("/jobs/{job}/send", { params: { path: { job }, ...under(key) }, body: s })),
	);
}
/** The hits that are marked on a picture, as those of a square. */
export const marksOf = (job: string, square: string, picture: string) =>
	answer(api.GET("/jobs/{job}/storm/squares/{square}/marks/{picture}", { params: { path: { job, square, picture } } }));
/** Starts a return visit of a job. */
export function useStartReturn(job: string) {
	return useListChange((id: string, key) =>
		answer(api.POST("/jobs/{job}/return", { params: { path: { job }, ...under(key) }, body: { id } })),
	);
}
/** Keeps the answers of a return visit; used by drafts. */
export const saveReturn = (job: string) => (base: number | null, body: Schemas["ReturnKept"], key: string) =>
	answer(api.PUT("/jobs/{job}/return", { params: { path: { job }, ...under(key) }, body: { base, body } }));
/** Keeps a building; used by drafts. */
export const saveBuilding = (building: string) => (base: number | null, body: Schemas["Building"], key: string) =>
	answer(api.PUT("/buildings/{building}", { params: { path: { building }, ...under(key) }, body: { base, body } }));
/** Says that jobs are visits of one building, which is made first when it is new; or takes one out of its building. */
export function useBelongs() {
	const client = useQueryClient();
	return useAction(
		async (b: { building: string; made?: Schemas["Building"]; join: string[]; leave?: string }, key) => {
			// Each step has a key of its own that stays the same when the whole is tried again.
			const step = (n: number) => under(`${key.slice(0, -2)}${(n % 256).toString(16).padStart(2, "0")}`);
			const { building } = b;
			if (b.made) await saveBuilding(building)(null, b.made, step(0).header["idempotency-key"]);
			for (const [n, job] of b.join.entries())
				await answer(api.POST("/buildings/{building}/jobs/{job}", { params: { path: { building, job }, ...step(n + 1) } }));
			if (b.leave)
				await answer(
					api.DELETE("/buildings/{building}/jobs/{job}", { params: { path: { building, job: b.leave }, ...step(255) } }),
				);
		},
		() => client.invalidateQueries(),
		"buildings",
	);
}

/** A change to the list of jobs. */
function useListChange<V, R>(send: (value: V, key: string) => Promise<R>) {
	const client = useQueryClient();
	return useAction(send, () => client.invalidateQueries(JOBS), null);
}
/** Makes a job with nothing but its name. */
export function useNewJob() {
	return useListChange((j: { id: string; name: string }, key) => saveJob(j.id)(null, { name: j.name } as Schemas["Job"], key));
}
export const newJob = (name: string) => ({ id: newId(), name });
export function useImport() {
	return useListChange((file: File, key) => sendBytes<Schemas["Record_Job"]>("/bundles", file, key));
}
export function useDeleteJob() {
	return useListChange((j: { id: string; base: number }, key) =>
		answer(api.DELETE("/jobs/{job}", { params: { path: { job: j.id }, query: { base: j.base }, ...under(key) } })),
	);
}
/** Brings back what was just deleted. */
export const undoIn = async (job: string) => {
	await answer(api.POST("/jobs/{job}/undo", { params: { path: { job }, ...under(newKey()) } }));
	await queryClient.invalidateQueries();
};

export const pictureUrl = (job: string, picture: string, copy: "thumb" | "display" | "original") =>
	`/api/jobs/${job}/pictures/${picture}/${copy}`;
