import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { Fault, Schemas } from "../../api/client";
import { type RoofRecord, roofKey, saveRoof } from "../../api/queries";
import { say } from "../../design/Notices";

export type Page = Schemas["RoofPage"];

export interface Editing {
	/** As typed: what is kept, and what is not fit to be kept yet. */
	draft: RoofRecord;
	/** Changes the draft; nothing is kept. */
	type: (next: RoofRecord) => void;
	/** Keeps the draft, or what is given. */
	keep: (next?: RoofRecord) => void;
	/** What is wrong, by field. */
	wrong: Record<string, string>;
}

/** The roof while it is typed: every change is kept as soon as it is fit, one after the other. */
export function useEditing(job: string, page: Page): Editing {
	const client = useQueryClient();
	const [draft, setDraft] = useState(page.roof);
	const [wrong, setWrong] = useState<Record<string, string>>({});
	const rev = useRef(page.rev ?? null);
	const queue = useRef(Promise.resolve());
	// What somebody else kept, or an undo, replaces what stands here.
	useEffect(() => {
		rev.current = page.rev ?? null;
		setDraft(page.roof);
		setWrong({});
	}, [page]);
	const keep = (next: RoofRecord = draft) => {
		setDraft(next);
		queue.current = queue.current.then(async () => {
			try {
				const kept = await saveRoof(job, rev.current, next);
				rev.current = kept.rev;
				setWrong({});
				await client.invalidateQueries({ queryKey: ["job", job] });
				await client.invalidateQueries({ queryKey: ["history", job] });
			} catch (e) {
				const fault = e as Fault;
				if (fault.field) setWrong({ [fault.field]: fault.message });
				say(fault.message, { wrong: true });
				if (fault.code === "stale") await client.invalidateQueries({ queryKey: roofKey(job) });
			}
		});
	};
	return { draft, type: setDraft, keep, wrong };
}
