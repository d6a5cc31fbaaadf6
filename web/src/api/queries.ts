// One factory for each question to the server, and one hook for each kind of change.
import {
	keepPreviousData,
	MutationCache,
	QueryClient,
	queryOptions,
	useMutation,
	useQuery,
	useQueryClient,
} from "@tanstack/react-query";
import { say } from "../design/Notices";
import { answer, api, change, Fault, newId, type Schemas, sendBytes } from "./client";

export type JobView = Schemas["JobView"];
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

export const queryClient = new QueryClient({
	defaultOptions: { queries: { staleTime: 5_000, retry: (n, e) => n < 2 && (e as Fault).code === "unreachable" } },
	mutationCache: new MutationCache({
		onError: (e, _, __, mutation) => {
			if (!(mutation.meta?.quiet && e instanceof Fault && e.code === "stale")) say(e.message, { wrong: true });
		},
	}),
});

/** What is asked about a job's roof is asked anew whenever the job changes. */
export const roofKey = (job: string) => ["job", job, "roof"];

export const ask = {
	jobs: (most: number) =>
		queryOptions({
			queryKey: ["jobs", most],
			queryFn: () => answer(api.GET("/jobs", { params: { query: { from: 0, most } } })),
			placeholderData: keepPreviousData,
		}),
	search: (words: string) =>
		queryOptions({
			queryKey: ["search", words],
			queryFn: () => answer(api.GET("/search", { params: { query: { words } } })),
			placeholderData: keepPreviousData,
		}),
	practices: () => queryOptions({ queryKey: ["practices"], queryFn: () => answer(api.GET("/practices")) }),
	tried: (job: string, practice: Practice) =>
		queryOptions({
			queryKey: ["job", job, "tried", practice],
			queryFn: () => answer(api.POST("/jobs/{job}/practice-tried", { params: { path: { job } }, body: practice })),
			retry: false,
		}),
	asItWas: (job: string, seq: number) =>
		queryOptions({
			queryKey: ["then", job, seq],
			queryFn: () => answer(api.GET("/jobs/{job}/then/{seq}", { params: { path: { job, seq } } })),
		}),
	roof: (job: string) =>
		queryOptions({
			queryKey: roofKey(job),
			queryFn: () => answer(api.GET("/jobs/{job}/roof", { params: { path: { job } } })),
			placeholderData: keepPreviousData,
		}),
	records: (job: string) =>
		queryOptions({
			queryKey: ["job", job, "records"],
			queryFn: () => answer(api.GET("/jobs/{job}/roof/records", { params: { path: { job } } })),
			enabled: false,
			retry: false,
		}),
	rainwater: (job: string, look: { at?: number; x?: number; y?: number; remedies?: boolean }) =>
		queryOptions({
			queryKey: ["job", job, "rainwater", look],
			queryFn: () => answer(api.GET("/jobs/{job}/rainwater", { params: { path: { job }, query: look } })),
			placeholderData: keepPreviousData,
		}),
	tryRainwater: (job: string, body: Schemas["Rainwater"] | null, at: number | null) =>
		queryOptions({
			queryKey: ["job", job, "rainwater-try", body, at],
			queryFn: () =>
				answer(
					api.POST("/jobs/{job}/rainwater/try", {
						params: { path: { job }, query: at === null ? {} : { at } },
						// Asked only while there is something to try.
						body: body as Schemas["Rainwater"],
					}),
				),
			enabled: body !== null,
			placeholderData: keepPreviousData,
			retry: false,
		}),
	ground: (job: string, look: { x?: number; y?: number }) =>
		queryOptions({
			queryKey: ["job", job, "ground", look],
			queryFn: () => answer(api.GET("/jobs/{job}/ground", { params: { path: { job }, query: look } })),
			placeholderData: keepPreviousData,
		}),
	tryGround: (job: string, tried: Schemas["TriedGround"] | null) =>
		queryOptions({
			queryKey: ["job", job, "ground-try", tried],
			// Asked only while there is something to try.
			queryFn: () =>
				answer(api.POST("/jobs/{job}/ground/try", { params: { path: { job } }, body: tried as Schemas["TriedGround"] })),
			enabled: tried !== null,
			placeholderData: keepPreviousData,
			retry: false,
		}),
	mending: (job: string, rev: number) =>
		queryOptions({
			queryKey: ["job", job, "mending", rev],
			queryFn: () => answer(api.GET("/jobs/{job}/ground/mending", { params: { path: { job } } })),
			retry: false,
		}),
	weather: (job: string) =>
		queryOptions({
			queryKey: ["job", job, "weather"],
			queryFn: () => answer(api.GET("/jobs/{job}/rainwater/weather", { params: { path: { job } } })),
			enabled: false,
			retry: false,
		}),
	roofChoices: () =>
		queryOptions({
			queryKey: ["roof-choices"],
			queryFn: () => answer(api.GET("/roof-choices")),
			staleTime: Number.POSITIVE_INFINITY,
		}),
	wear: (covering: string, sign: string, grade: number) =>
		queryOptions({
			queryKey: ["wear", covering, sign, grade],
			queryFn: () => answer(api.GET("/wear", { params: { query: { covering, sign, grade } } })),
			staleTime: Number.POSITIVE_INFINITY,
		}),
	job: (job: string) =>
		queryOptions({ queryKey: ["job", job], queryFn: () => answer(api.GET("/jobs/{job}", { params: { path: { job } } })) }),
	choices: () =>
		queryOptions({ queryKey: ["choices"], queryFn: () => answer(api.GET("/choices")), staleTime: Number.POSITIVE_INFINITY }),
	history: (job: string) =>
		queryOptions({
			queryKey: ["history", job],
			queryFn: () => answer(api.GET("/jobs/{job}/history", { params: { path: { job } } })),
		}),
	reading: (line: string, place: Place, front: number | null, own_words: Schemas["OwnWord"][]) =>
		queryOptions({
			queryKey: ["reading", line, place, front, own_words],
			queryFn: () => answer(api.POST("/calc/note", { body: { line, place, front, own_words } })),
			staleTime: Number.POSITIVE_INFINITY,
			gcTime: 60_000,
		}),
	report: (job: string, version: string) =>
		queryOptions({
			queryKey: ["report", job, version],
			queryFn: () => answer(api.GET("/jobs/{job}/report", { params: { path: { job } } })),
		}),
};

export const useJob = (job: string) => useQuery(ask.job(job));
export const useChoices = () => useQuery(ask.choices()).data;

/** A change to a job: afterwards everything that shows it is asked anew. */
function useChange<V, R>(job: string, send: (value: V) => Promise<R>, quiet = false) {
	const client = useQueryClient();
	return useMutation({
		mutationKey: ["change"],
		mutationFn: send,
		meta: { quiet },
		onSettled: () =>
			Promise.all([
				client.invalidateQueries({ queryKey: ["job", job] }),
				client.invalidateQueries({ queryKey: ["jobs"] }),
				client.invalidateQueries({ queryKey: ["history", job] }),
			]),
	});
}

export function useSaveJob(job: string) {
	return useChange(job, (put: { base: number | null; body: Schemas["Job"] }) =>
		answer(api.PUT("/jobs/{job}", { params: { path: { job }, ...change() }, body: put })),
	);
}

export interface NewLine {
	line: string;
	place: Place;
	conditions?: (string | null)[];
	done_right?: boolean;
}

export function useKeepLine(job: string) {
	return useChange(job, (l: NewLine) =>
		answer(
			api.POST("/jobs/{job}/lines", {
				params: { path: { job }, ...change() },
				body: { conditions: [], done_right: false, ...l, at: new Date().toISOString() },
			}),
		),
	);
}

export function useSaveNote(job: string) {
	return useChange(
		job,
		(n: { id: string; base: number; body: Note }) =>
			answer(
				api.PUT("/jobs/{job}/notes/{note}", {
					params: { path: { job, note: n.id }, ...change() },
					body: { base: n.base, body: n.body },
				}),
			),
		true,
	);
}

export function useDeleteNote(job: string) {
	return useChange(job, (n: { id: string; base: number }) =>
		answer(
			api.DELETE("/jobs/{job}/notes/{note}", { params: { path: { job, note: n.id }, query: { base: n.base }, ...change() } }),
		),
	);
}

export function useMark(job: string) {
	return useChange(job, async (m: { cell: string; base: number | null; state: MarkState | null }): Promise<void> => {
		const path = { job, cell: m.cell };
		if (m.state === null)
			await answer(api.DELETE("/jobs/{job}/marks/{cell}", { params: { path, query: { base: m.base ?? 0 }, ...change() } }));
		else
			await answer(api.PUT("/jobs/{job}/marks/{cell}", { params: { path, ...change() }, body: { base: m.base, body: m.state } }));
	});
}

export function useUndo(job: string) {
	return useChange(job, () => answer(api.POST("/jobs/{job}/undo", { params: { path: { job }, ...change() } })));
}

export function useRedo(job: string) {
	return useChange(job, () => answer(api.POST("/jobs/{job}/redo", { params: { path: { job }, ...change() } })));
}

export function useCountItems(job: string) {
	return useChange(job, (c: Schemas["Count"]) =>
		answer(api.POST("/jobs/{job}/items", { params: { path: { job }, ...change() }, body: c })),
	);
}

export function useSaveItem(job: string) {
	return useChange(job, (i: { id: string; base: number; body: Item }) =>
		answer(
			api.PUT("/jobs/{job}/items/{item}", {
				params: { path: { job, item: i.id }, ...change() },
				body: { base: i.base, body: i.body },
			}),
		),
	);
}

export function useDeleteItem(job: string) {
	return useChange(job, (i: { id: string; base: number }) =>
		answer(
			api.DELETE("/jobs/{job}/items/{item}", { params: { path: { job, item: i.id }, query: { base: i.base }, ...change() } }),
		),
	);
}

/** A note of a walk that was read in: kept as it stands in the review. */
export function useNewNote(job: string) {
	return useChange(job, (n: { id: string; body: Note }) =>
		answer(
			api.PUT("/jobs/{job}/notes/{note}", {
				params: { path: { job, note: n.id }, ...change() },
				body: { base: null, body: n.body },
			}),
		),
	);
}

/** Keeps a roof; the caller knows its revision. */
export const saveRoof = (job: string, base: number | null, body: RoofRecord) =>
	answer(api.PUT("/jobs/{job}/roof", { params: { path: { job }, ...change() }, body: { base, body } }));

/** Keeps rain and gutters; the caller knows their revision. */
export const saveRainwater = (job: string, base: number | null, body: Schemas["Rainwater"]) =>
	answer(api.PUT("/jobs/{job}/rainwater", { params: { path: { job }, ...change() }, body: { base, body } }));

/** Keeps the ground; the caller knows its revision. */
export const saveGround = (job: string, base: number | null, body: Schemas["Ground"]) =>
	answer(api.PUT("/jobs/{job}/ground", { params: { path: { job }, ...change() }, body: { base, body } }));

/** Reads a file of readings; nothing is kept. */
export const readReadings = (job: string, file: File, how: { unit: string; along?: string; out?: string; height?: string }) => {
	const form = /json$/i.test(file.name) ? "geojson" : "csv";
	const said = Object.entries({ form, ...how }).filter(([, v]) => v) as [string, string][];
	return sendBytes<Schemas["ReadingsFile"]>(`/jobs/${job}/ground/readings?${new URLSearchParams(said)}`, file);
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
	return useChange(job, (a: { base: number; key: string; answer: Schemas["Answer"] | null }) =>
		answer(
			api.POST("/jobs/{job}/roof/answers", {
				params: { path: { job }, ...change() },
				body: { ...a, at: new Date().toISOString() },
			}),
		),
	);
}

/** Reads masses from a GeoJSON file; nothing is kept. */
export const readRoofFile = (job: string, file: Blob) => sendBytes<RoofRecord>(`/jobs/${job}/roof/geojson`, file);

/** Reads a walk file; nothing is kept. */
export const readWalk = (job: string, file: Blob) => sendBytes<Schemas["Walk"]>(`/jobs/${job}/walk`, file);

/** Reads a practice file; nothing is kept. */
export const readPractice = (file: Blob) => sendBytes<Practice>("/practices/read", file);

/** Keeps a practice: every job may say something else afterwards. */
export function useSavePractice() {
	const client = useQueryClient();
	return useMutation({
		mutationKey: ["change"],
		mutationFn: (p: { id: string; base: number | null; body: Practice }) =>
			answer(
				api.PUT("/practices/{practice}", {
					params: { path: { practice: p.id }, ...change() },
					body: { base: p.base, body: p.body },
				}),
			),
		onSettled: () => client.invalidateQueries(),
	});
}

export function useCloseVisit(job: string) {
	return useChange(job, (c: Schemas["Close"]) =>
		answer(api.POST("/jobs/{job}/close", { params: { path: { job }, ...change() }, body: c })),
	);
}

export function useAttach(job: string) {
	return useChange(job, (p: { file: File; note?: string | undefined }) => {
		const query = new URLSearchParams({ name: p.file.name, ...(p.note ? { note: p.note } : {}) });
		return sendBytes<Attached>(`/jobs/${job}/pictures?${query}`, p.file);
	});
}

export function useSavePicture(job: string) {
	return useChange(job, (p: { id: string; base: number; body: Schemas["PictureChange"] }) =>
		answer(
			api.PUT("/jobs/{job}/pictures/{picture}", {
				params: { path: { job, picture: p.id }, ...change() },
				body: { base: p.base, body: p.body },
			}),
		),
	);
}

export function useDeletePicture(job: string) {
	return useChange(job, (p: { id: string; base: number }) =>
		answer(
			api.DELETE("/jobs/{job}/pictures/{picture}", {
				params: { path: { job, picture: p.id }, query: { base: p.base }, ...change() },
			}),
		),
	);
}

/** Makes a job with nothing but its name. */
export function useNewJob() {
	const client = useQueryClient();
	return useMutation({
		mutationKey: ["change"],
		mutationFn: (name: string) =>
			answer(
				api.PUT("/jobs/{job}", {
					params: { path: { job: newId() }, ...change() },
					body: { base: null, body: { name } as Schemas["Job"] },
				}),
			),
		onSettled: () => client.invalidateQueries({ queryKey: ["jobs"] }),
	});
}

export function useImport() {
	const client = useQueryClient();
	return useMutation({
		mutationKey: ["change"],
		mutationFn: (file: File) => sendBytes<Schemas["Record_Job"]>("/bundles", file),
		onSettled: () => client.invalidateQueries({ queryKey: ["jobs"] }),
	});
}

export function useDeleteJob() {
	const client = useQueryClient();
	return useMutation({
		mutationKey: ["change"],
		mutationFn: (j: { id: string; base: number }) =>
			answer(api.DELETE("/jobs/{job}", { params: { path: { job: j.id }, query: { base: j.base }, ...change() } })),
		onSettled: () => client.invalidateQueries({ queryKey: ["jobs"] }),
	});
}

/** Brings back a job that was just deleted. */
export const undoIn = (job: string) => answer(api.POST("/jobs/{job}/undo", { params: { path: { job }, ...change() } }));

export const pictureUrl = (job: string, picture: string, copy: "thumb" | "display" | "original") =>
	`/api/jobs/${job}/pictures/${picture}/${copy}`;
