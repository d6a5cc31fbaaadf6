// What is typed.
import {
	Input as AriaInput,
	TextArea as AriaTextArea,
	TextField as AriaTextField,
	FieldError,
	Label,
	Text,
} from "react-aria-components";
import styled, { css } from "styled-components";
import { corner, font, line, size, target, tone } from "./tokens";

const labelLook = css`
	display: block;
	font-size: ${size.small};
	color: ${tone.inkSoft};
	margin-bottom: 3px;
`;

export const field = css`
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

export const Wrong = styled(FieldError)`font-size: ${size.small}; color: ${tone.brick}; display: block; margin-top: 3px;`;

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
