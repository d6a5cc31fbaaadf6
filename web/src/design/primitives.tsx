// The parts every bench is built from. Behaviour is React Aria's; the look is here.
import type { ReactNode } from "react";
import {
	ComboBox as AriaComboBox,
	Dialog as AriaDialog,
	Input as AriaInput,
	Link as AriaLink,
	Select as AriaSelect,
	TextArea as AriaTextArea,
	TextField as AriaTextField,
	Button,
	Checkbox,
	FieldError,
	Heading,
	Label,
	ListBox,
	ListBoxItem,
	Modal,
	ModalOverlay,
	NumberField,
	Popover,
	Radio,
	RadioGroup,
	SelectValue,
	Slider,
	SliderOutput,
	SliderThumb,
	SliderTrack,
	Text,
} from "react-aria-components";
import styled, { css } from "styled-components";
import { at, corner, font, hairline, line, size, target, tone } from "./tokens";

const pressed = css`
	min-height: ${target};
	padding: 0 14px;
	border-radius: ${corner};
	font: 600 ${size.text}/1.2 ${font.text};
	cursor: pointer;
	display: inline-flex;
	align-items: center;
	gap: 8px;
	text-decoration: none;
	&[data-disabled] { opacity: 0.5; cursor: default; }
`;

/** The main thing to do here. */
export const MainButton = styled(Button)`
	${pressed}
	border: 1.5px solid ${tone.copper};
	background: ${tone.copper};
	color: ${tone.onCopper};
	&[data-hovered] { filter: brightness(1.08); }
`;

/** Something else to do. */
export const PlainButton = styled(Button)`
	${pressed}
	border: ${line};
	background: ${tone.plaster};
	color: ${tone.ink};
	&[data-hovered] { background: ${tone.plasterLow}; }
`;

/** An action in running text or in a strip. */
export const QuietButton = styled(Button)`
	${pressed}
	padding: 0 8px;
	border: 1.5px solid transparent;
	background: none;
	color: ${tone.ink};
	font-weight: 400;
	text-decoration: underline;
	text-decoration-color: ${tone.plasterLine};
	text-underline-offset: 4px;
	&[data-hovered] { text-decoration-color: ${tone.copper}; }
`;

/** A link that is a button in looks: a download. */
export const ButtonLink = styled(AriaLink)`
	${pressed}
	border: ${line};
	color: ${tone.ink};
	&[data-hovered] { background: ${tone.plasterLow}; }
`;

const labelLook = css`
	display: block;
	font-size: ${size.small};
	color: ${tone.inkSoft};
	margin-bottom: 3px;
`;

const field = css`
	width: 100%;
	min-height: ${target};
	padding: 9px 10px;
	border: ${line};
	border-radius: ${corner};
	background: ${tone.field};
	color: ${tone.ink};
	font: 400 ${size.text}/1.4 ${font.text};
	&::placeholder { color: ${tone.inkSoft}; opacity: 1; }
	&[data-invalid] { border-color: ${tone.brick}; }
`;

export const FieldLabel = styled(Label)`${labelLook}`;
export const TextInput = styled(AriaInput)`${field}`;
export const Area = styled(AriaTextArea)`${field} resize: none; display: block;`;
const Wrong = styled(FieldError)`font-size: ${size.small}; color: ${tone.brick}; display: block; margin-top: 3px;`;
const Hint = styled(Text)`font-size: ${size.small}; color: ${tone.inkSoft}; display: block; margin-top: 3px;`;

export interface FieldProps {
	label: string;
	value: string;
	onChange: (value: string) => void;
	onBlur?: () => void;
	type?: "text" | "date" | "number";
	rows?: number;
	hint?: string | undefined;
	error?: string | undefined;
	autoFocus?: boolean;
	placeholder?: string;
}

/** One line or more of text with its label. */
export function Field({ label, rows, hint, error, placeholder, type = "text", onBlur, autoFocus = false, ...rest }: FieldProps) {
	return (
		<AriaTextField {...rest} type={type} isInvalid={error !== undefined} {...(onBlur ? { onBlur } : {})} autoFocus={autoFocus}>
			<FieldLabel>{label}</FieldLabel>
			{rows ? <Area rows={rows} placeholder={placeholder} /> : <TextInput placeholder={placeholder} />}
			{hint && <Hint slot="description">{hint}</Hint>}
			<Wrong>{error}</Wrong>
		</AriaTextField>
	);
}

const Floating = styled(Popover)`
	background: ${tone.plaster};
	border: ${line};
	border-radius: ${corner};
	box-shadow: 0 6px 20px rgb(0 0 0 / 0.22);
	overflow: auto;
	min-width: var(--trigger-width);
	max-width: min(440px, 92vw);
	max-height: 340px;
`;
const Options = styled(ListBox)`padding: 4px; outline: none;`;
const Option = styled(ListBoxItem)`
	min-height: ${target};
	padding: 6px 10px;
	border-radius: ${corner};
	cursor: pointer;
	display: flex;
	flex-direction: column;
	justify-content: center;
	&[data-focused] { background: ${tone.plasterLow}; outline: 2px solid ${tone.copper}; }
	&[data-selected] { font-weight: 600; }
	small { color: ${tone.inkSoft}; font-size: ${size.small}; font-weight: 400; }
`;
const Picked = styled(
	Button,
)`${field} display: flex; justify-content: space-between; align-items: center; text-align: left; cursor: pointer; gap: 8px;`;

export interface Choice {
	id: string;
	name: string;
	more?: string;
}

export interface ChooserProps {
	label: string;
	choices: Choice[];
	value: string | null;
	onChange: (id: string | null) => void;
	placeholder?: string;
	hideLabel?: boolean;
}

/** One of a few. */
export function Chooser({ label, choices, value, onChange, placeholder = "Not set", hideLabel = false }: ChooserProps) {
	return (
		<AriaSelect
			{...(hideLabel ? { "aria-label": label } : {})}
			selectedKey={value}
			onSelectionChange={(k) => onChange(k === null ? null : String(k))}
			placeholder={placeholder}
		>
			{!hideLabel && <FieldLabel>{label}</FieldLabel>}
			<Picked>
				<SelectValue />
				<span aria-hidden>▾</span>
			</Picked>
			<Floating>
				<Options items={choices}>
					{(c) => (
						<Option id={(c as Choice).id} textValue={(c as Choice).name}>
							{(c as Choice).name}
						</Option>
					)}
				</Options>
			</Floating>
		</AriaSelect>
	);
}

const Boxed = styled.div`position: relative; button { position: absolute; right: 0; top: 0; height: 100%; width: ${target}; border: 0; background: none; color: ${tone.ink}; cursor: pointer; } input { padding-right: ${target}; }`;

/** One of many, found by typing. */
export function Finder({ label, choices, value, onChange, placeholder, hideLabel = false }: ChooserProps) {
	return (
		<AriaComboBox
			{...(hideLabel ? { "aria-label": label } : {})}
			defaultItems={choices}
			selectedKey={value}
			onSelectionChange={(k) => onChange(k === null ? null : String(k))}
			menuTrigger="focus"
		>
			{!hideLabel && <FieldLabel>{label}</FieldLabel>}
			<Boxed>
				<TextInput placeholder={placeholder} onFocus={(e) => e.currentTarget.select()} />
				<Button>
					<span aria-hidden>▾</span>
				</Button>
			</Boxed>
			<Floating>
				<Options>
					{(c) => {
						const choice = c as Choice;
						return (
							<Option id={choice.id} textValue={choice.name}>
								{choice.name}
								{choice.more && <small>{choice.more}</small>}
							</Option>
						);
					}}
				</Options>
			</Floating>
		</AriaComboBox>
	);
}

const Ticked = styled(Checkbox)`
	display: flex;
	gap: 10px;
	align-items: center;
	min-height: ${target};
	cursor: pointer;
	i { flex: none; width: 22px; height: 22px; border: ${line}; border-radius: ${corner}; display: grid; place-items: center; font-style: normal; background: ${tone.field}; }
	&[data-selected] i::after { content: "✓"; font-weight: 600; }
	&[data-focus-visible] { outline: none; }
	&[data-focus-visible] i { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
`;

/** Yes or no. */
export function Tick({ children, value, onChange }: { children: ReactNode; value: boolean; onChange: (value: boolean) => void }) {
	return (
		<Ticked isSelected={value} onChange={onChange}>
			<i aria-hidden />
			<span>{children}</span>
		</Ticked>
	);
}

const Radios = styled(RadioGroup)`display: grid; gap: 2px;`;
const One = styled(Radio)`
	display: flex;
	gap: 10px;
	align-items: center;
	min-height: ${target};
	cursor: pointer;
	overflow-wrap: anywhere;
	i { flex: none; width: 20px; height: 20px; border: ${line}; border-radius: 50%; display: grid; place-items: center; background: ${tone.field}; }
	&[data-selected] i::after { content: ""; width: 10px; height: 10px; border-radius: 50%; background: ${tone.ink}; }
	&[data-focus-visible] { outline: none; }
	&[data-focus-visible] i { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
`;

export interface RadioChoiceProps {
	label: string;
	choices: Choice[];
	value: string;
	onChange: (id: string) => void;
}

/** One of a few, all in sight. */
export function RadioChoice({ label, choices, value, onChange }: RadioChoiceProps) {
	return (
		<Radios value={value} onChange={onChange}>
			<FieldLabel>{label}</FieldLabel>
			{choices.map((c) => (
				<One key={c.id} value={c.id}>
					<i aria-hidden />
					<span>{c.name}</span>
				</One>
			))}
		</Radios>
	);
}

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

const Fold = styled.details`
	summary { min-height: ${target}; display: flex; align-items: center; gap: 8px; cursor: pointer; width: fit-content; list-style: none; text-decoration: underline; text-decoration-color: ${tone.plasterLine}; text-underline-offset: 4px; }
	summary::before { content: "▸"; }
	&[open] summary::before { content: "▾"; }
`;

/** A list that is counted, and opened when somebody wants it. */
export function Folded({ head, children }: { head: string; children: ReactNode }) {
	return (
		<Fold>
			<summary>{head}</summary>
			{children}
		</Fold>
	);
}

const Veil = styled(
	ModalOverlay,
)`position: fixed; inset: 0; background: rgb(18 24 28 / 0.5); display: grid; place-items: center; padding: 12px; z-index: 20;`;
const Sheet = styled(Modal)<{ $wide: boolean }>`
	background: ${tone.plaster};
	color: ${tone.ink};
	border: ${line};
	border-radius: ${corner};
	box-shadow: 0 10px 40px rgb(0 0 0 / 0.3);
	width: min(${(p) => (p.$wide ? "980px" : "600px")}, 100%);
	max-height: calc(100dvh - 24px);
	overflow: auto;
`;
const Inside = styled(AriaDialog)`padding: 20px 22px; outline: none; ${at.phone} { padding: 14px; }`;
const Top = styled.div`display: flex; justify-content: space-between; gap: 12px; align-items: start; margin-bottom: 12px;`;

export interface SheetProps {
	title: string;
	isOpen: boolean;
	onClose: () => void;
	children: ReactNode;
	wide?: boolean;
	/** What the button that puts it away says. */
	away?: string;
}

/** Something that is done or looked at before going on. */
export function Dialog({ title, isOpen, onClose, children, wide = false, away = "Close" }: SheetProps) {
	return (
		<Veil isOpen={isOpen} onOpenChange={(o) => !o && onClose()} isDismissable>
			<Sheet $wide={wide}>
				<Inside>
					<Top>
						<Heading slot="title" level={2}>
							{title}
						</Heading>
						<PlainButton onPress={onClose}>{away}</PlainButton>
					</Top>
					{children}
				</Inside>
			</Sheet>
		</Veil>
	);
}

export const Row = styled.div<{ $gap?: number; $between?: boolean }>`
	display: flex;
	flex-wrap: wrap;
	align-items: center;
	gap: ${(p) => p.$gap ?? 10}px;
	${(p) => p.$between && "justify-content: space-between;"}
`;
export const Stack = styled.div<{
	$gap?: number;
}>`display: grid; grid-template-columns: minmax(0, 1fr); gap: ${(p) => p.$gap ?? 12}px; align-content: start;`;
export const Columns = styled.div`display: grid; grid-template-columns: repeat(auto-fit, minmax(230px, 1fr)); gap: 12px 16px; align-items: start;`;
/** A drawing with its list beside it; under it where there is no room. */
export const Beside = styled.div`
	display: grid;
	grid-template-columns: minmax(0, 1.35fr) minmax(250px, 1fr);
	gap: 6px 22px;
	align-items: start;
	margin-top: 8px;
	@media (max-width: 1180px) { grid-template-columns: minmax(0, 1fr); }
`;
export const Soft = styled.span`font-weight: 400; color: ${tone.inkSoft}; font-size: ${size.small};`;
export const Figures = styled.span`font-family: ${font.figures}; font-size: ${size.small};`;
export const Rule = styled.hr`border: 0; border-top: ${hairline}; margin: 4px 0;`;
export const Hazard = styled.b`color: ${tone.brick};`;
