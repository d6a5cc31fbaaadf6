import { NumberBox, type NumberBoxProps } from "../design/numbers";
import { type TypedKind, typedIn, useShown } from "./units";

/** A number typed in the reader's first unit and kept in the metric one; its limits are of what is kept. */
export function UnitBox({ label, of, value, onChange, least, most, ...rest }: NumberBoxProps & { of: TypedKind }) {
	const unit = typedIn(useShown().units, of);
	return (
		<NumberBox
			{...rest}
			label={`${label}, ${unit.name}`}
			value={value == null ? null : unit.show(value)}
			onChange={(v) => onChange(v == null ? null : unit.keep(v))}
			{...(least === undefined ? {} : { least: unit.show(least) })}
			{...(most === undefined ? {} : { most: unit.show(most) })}
		/>
	);
}
