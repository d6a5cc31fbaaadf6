import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { say } from "../design/Notices";
import type { Fault } from "./client";

export interface EditingOf<T> {
	/** As typed: what is kept, and what is not fit to be kept yet. */
	draft: T;
	/** Changes the draft; nothing is kept. */
	type: (next: T) => void;
	/** Keeps the draft, or what is given. */
	keep: (next?: T) => void;
	/** What is wrong, by field. */
	wrong: Record<string, string>;
}

/** Something a job has one of, while it is typed: every change is kept as soon as it is fit, one after the other. */
export function useEditing<T>(
	job: string,
	kept: { value: T; rev: number | null },
	save: (base: number | null, body: T) => Promise<{ rev: number }>,
): EditingOf<T> {
	const client = useQueryClient();
	const [draft, setDraft] = useState(kept.value);
	const [wrong, setWrong] = useState<Record<string, string>>({});
	const rev = useRef(kept.rev);
	const queue = useRef(Promise.resolve());
	// What somebody else kept, or an undo, replaces what stands here.
	// biome-ignore lint/correctness/useExhaustiveDependencies: a new value comes with each answer; the revision says when it differs
	useEffect(() => {
		rev.current = kept.rev;
		setDraft(kept.value);
		setWrong({});
	}, [kept.rev, job]);
	const keep = (next: T = draft) => {
		setDraft(next);
		queue.current = queue.current.then(async () => {
			try {
				rev.current = (await save(rev.current, next)).rev;
				setWrong({});
				await client.invalidateQueries({ queryKey: ["job", job] });
				await client.invalidateQueries({ queryKey: ["history", job] });
			} catch (e) {
				const fault = e as Fault;
				if (fault.field) setWrong({ [fault.field]: fault.message });
				say(fault.message, { wrong: true });
				if (fault.code === "stale") await client.invalidateQueries({ queryKey: ["job", job] });
			}
		});
	};
	return { draft, type: setDraft, keep, wrong };
}
