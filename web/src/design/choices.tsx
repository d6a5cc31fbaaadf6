// One of a few, one of many, yes or no.
import type { ReactNode } from "react";
import {
	ComboBox as AriaComboBox,
	Select as AriaSelect,
	Button,
	Checkbox,
	ListBox,
	ListBoxItem,
	Popover,
	Radio,
	RadioGroup,
	SelectValue,
} from "react-aria-components";
import styled from "styled-components";
import { FieldLabel, field, TextInput } from "./fields";
import { corner, line, size, target, tone } from "./tokens";

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

const RadioLine = styled(Radio)`
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
				<RadioLine key={c.id} value={c.id}>
					<i aria-hidden />
					<span>{c.name}</span>
				</RadioLine>
			))}
		</Radios>
	);
}
