// Where the water of an outlet goes on: the same for a gutter and for a flat roof.
import type { Schemas } from "../../api/client";
import { Chooser } from "../../design/choices";
import { Field } from "../../design/fields";
import { ENDS } from "./kinds";

type Ends = Pick<Schemas["OutletRecord"], "ends" | "distance" | "onto">;

export interface LetsGoProps {
	outlet: Ends;
	/** Eaves whose roof or gutter its water may come to. */
	eaves: { key: string; label: string }[];
	/** What is said while no eave was named. */
	unnamed: string;
	wrong?: string | undefined;
	set: (part: Partial<Ends>, now?: boolean) => void;
	keep: () => void;
}

/** How its pipe ends; then how far from the wall, or onto which eave. */
export function LetsGo({ outlet, eaves, unnamed, wrong, set, keep }: LetsGoProps) {
	return (
		<>
			<Chooser
				label="Ends"
				choices={ENDS}
				value={outlet.ends ?? "ground"}
				onChange={(v) => v && set({ ends: v as NonNullable<Ends["ends"]> }, true)}
			/>
			{outlet.ends === "lower-roof" ? (
				<Chooser
					label="Its water comes to"
					choices={[{ id: "shape", name: unnamed }, ...eaves.map((e) => ({ id: e.key, name: e.label }))]}
					value={outlet.onto || "shape"}
					onChange={(v) => v && set({ onto: v === "shape" ? "" : v }, true)}
				/>
			) : (
				<Field
					label="Lets go so far from the wall"
					value={outlet.distance ?? ""}
					onChange={(distance) => set({ distance })}
					onBlur={keep}
					error={wrong}
				/>
			)}
		</>
	);
}
