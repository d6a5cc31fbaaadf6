import type { Schemas } from "../../api/client";

export type RainPage = Schemas["RainPage"];
