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
	Popover,
	SelectValue,
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
const Area = styled(AriaTextArea)`${field} resize: vertical;`;
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
}

/** Something that is done or looked at before going on. */
export function Dialog({ title, isOpen, onClose, children, wide = false }: SheetProps) {
	return (
		<Veil isOpen={isOpen} onOpenChange={(o) => !o && onClose()} isDismissable>
			<Sheet $wide={wide}>
				<Inside>
					<Top>
						<Heading slot="title" level={2}>
							{title}
						</Heading>
						<PlainButton onPress={onClose}>Close</PlainButton>
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
