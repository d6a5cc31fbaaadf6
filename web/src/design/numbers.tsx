// Numbers: typed, or along a scale.
import type { ReactNode } from "react";
import { NumberField, Slider, SliderOutput, SliderThumb, SliderTrack } from "react-aria-components";
import styled from "styled-components";
import { FieldLabel, TextInput, Wrong } from "./fields";
import { size, target, tone } from "./tokens";

export interface NumberBoxProps {
	label: string;
	value: number | null;
	onChange: (value: number | null) => void;
	least?: number;
	most?: number;
	error?: string | undefined;
}

/** A number as the person's own language writes it. */
export function NumberBox({ label, value, onChange, least, most, error }: NumberBoxProps) {
	return (
		<NumberField
			value={value ?? Number.NaN}
			onChange={(v) => onChange(Number.isNaN(v) ? null : v)}
			{...(least === undefined ? {} : { minValue: least })}
			{...(most === undefined ? {} : { maxValue: most })}
			formatOptions={{ maximumFractionDigits: 3 }}
			isInvalid={error !== undefined}
		>
			<FieldLabel>{label}</FieldLabel>
			<TextInput />
			<Wrong>{error}</Wrong>
		</NumberField>
	);
}

const Slid = styled(Slider)<{ $water: boolean }>`
	display: grid;
	grid-template-columns: auto minmax(120px, 1fr) auto;
	gap: 4px 16px;
	align-items: center;
	margin-top: 10px;
	--filled: ${(p) => (p.$water ? tone.water : tone.copper)};
	label { margin: 0; }
	output { font-weight: 600; font-size: ${size.large}; white-space: nowrap; }
	> div:last-child:not(.react-aria-SliderTrack) { grid-column: 1 / -1; }
`;

const Track = styled(SliderTrack)`
	height: ${target};
	position: relative;
	cursor: pointer;
	&::before { content: ""; position: absolute; inset: 20px 0; background: ${tone.inkSoft}; }
	&::after { content: ""; position: absolute; inset: 19px auto 19px 0; width: var(--part); background: var(--filled); }
`;

const Thumb = styled(SliderThumb)`
	width: 24px;
	height: 24px;
	top: 50%;
	border-radius: 50%;
	border: 2px solid ${tone.plaster};
	background: var(--filled);
	z-index: 1;
	&[data-focus-visible] { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
`;

export interface SlideProps {
	label: string;
	value: number;
	most: number;
	least?: number;
	/** The value as it is said. */
	shown: string;
	/** It is an amount of water. */
	water?: boolean;
	onChange: (value: number) => void;
	children?: ReactNode;
}

/** A value along a scale. */
export function Slide({ label, value, most, least = 0, shown, water = false, onChange, children }: SlideProps) {
	return (
		<Slid minValue={least} maxValue={most} value={value} onChange={(v) => onChange(v as number)} $water={water}>
			<FieldLabel>{label}</FieldLabel>
			<Track style={{ "--part": `${(100 * (value - least)) / Math.max(1e-9, most - least)}%` } as React.CSSProperties}>
				<Thumb aria-valuetext={shown} />
			</Track>
			<SliderOutput>{shown}</SliderOutput>
			{children && <div>{children}</div>}
		</Slid>
	);
}
