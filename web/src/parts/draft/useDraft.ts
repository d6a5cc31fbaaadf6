import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useSyncExternalStore } from "react";
import { newId } from "../../api/client";
import { ofJob } from "../../api/queries";
import { type Failure, Keeper, type Kept, keeperOf, type Save, type Snapshot } from "./keeper";

/**
 * What a draft becomes: as it is given, or made of what it is when the change comes. Whoever waited for something (a picture, an
 * instrument, an office) changes it so, because more may have been typed meanwhile.
 */
export type Change<T> = T | ((now: T) => T);

export interface Draft<T> extends Snapshot<T> {
	/** Changes the draft; nothing is sent. */
	type: (draft: Change<T>) => void;
	/** Changes the draft and sends it after a pause. */
	later: (draft: Change<T>) => void;
	/** Sends the draft, or what is given, at once. */
	keep: (draft?: Change<T>) => void;
	/** Back to what is kept. */
	drop: () => void;
	choose: Keeper<T>["choose"];
}

/**
 * The one way of editing. `name` says which thing it is, so that a draft is found again wherever it is opened. What `kept` brings from
 * the server never overwrites what was typed.
 */
export function useDraft<T>(job: string, name: string, kept: Kept<T>, save: Save<T>): Draft<T> {
	const client = useQueryClient();
	const onKept = () => void client.invalidateQueries(ofJob(job));
	// biome-ignore lint/correctness/useExhaustiveDependencies: the thing decides which keeper it is, and nothing else
	const keeper = useMemo(() => keeperOf<T>(`${job} ${name}`, () => new Keeper(kept, save, newId, onKept)), [job, name]);
	keeper.use(save, onKept);
	const snapshot = useSyncExternalStore(keeper.subscribe, keeper.read);
	const { rev, value } = kept;
	// biome-ignore lint/correctness/useExhaustiveDependencies: a new value comes with each answer; the revision says when it differs
	useEffect(() => keeper.arrived({ rev, value }), [keeper, rev]);
	return useMemo(() => {
		const of = (change: Change<T>): T => (typeof change === "function" ? (change as (now: T) => T)(keeper.read().draft) : change);
		return {
			...snapshot,
			type: (d) => keeper.type(of(d)),
			later: (d) => keeper.later(of(d)),
			keep: (d) => keeper.keep(d === undefined ? undefined : of(d)),
			drop: () => keeper.drop(),
			choose: (path, which) => keeper.choose(path, which),
		};
	}, [snapshot, keeper]);
}

export type { Failure, Save };
