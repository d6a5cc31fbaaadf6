import type { Schemas } from "../../api/client";

export type GroundPage = Schemas["GroundPage"];
export type GroundRecord = Schemas["Ground"];
