import type { Schemas } from "../../api/client";
import { type EditingOf, useEditing as useEditingOf } from "../../api/editing";
import { type RoofRecord, saveRoof } from "../../api/queries";

export type Page = Schemas["RoofPage"];
export type Editing = EditingOf<RoofRecord>;

/** The roof while it is typed. */
export const useEditing = (job: string, page: Page): Editing =>
	useEditingOf(job, { value: page.roof, rev: page.rev ?? null }, (base, body) => saveRoof(job, base, body));
