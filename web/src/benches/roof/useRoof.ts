import type { Schemas } from "../../api/client";
import { type RoofRecord, saveRoof } from "../../api/queries";
import { type Draft, useDraft } from "../../parts/draft/useDraft";

export type Page = Schemas["RoofPage"];
export type Editing = Pick<Draft<RoofRecord>, "draft" | "type" | "keep" | "wrong">;

/** The roof while it is typed. */
export const useRoof = (job: string, page: Page) =>
	useDraft<RoofRecord>(job, "roof", { value: page.roof, rev: page.rev ?? null }, saveRoof(job));
