import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useSyncExternalStore } from "react";
import { newId } from "../../api/client";
import { ofJob } from "../../api/queries";
import { type Failure, Keeper, type Kept, keeperOf, type Save, type Snapshot } from "./keeper";

export interface Draft<T> extends Snapshot<T> {
	/** Changes the draft; nothing is sent. */
	type: (draft: T) => void;
	/** Changes the draft and sends it after a pause. */
	later: (draft: T) => void;
	/** Sends the draft, or what is given, at once. */
	keep: (draft?: T) => void;
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
	return useMemo(
		() => ({
			...snapshot,
			type: (d) => keeper.type(d),
			later: (d) => keeper.later(d),
			keep: (d) => keeper.keep(d),
			drop: () => keeper.drop(),
			choose: (path, which) => keeper.choose(path, which),
		}),
		[snapshot, keeper],
	);
}

export type { Failure, Save };
