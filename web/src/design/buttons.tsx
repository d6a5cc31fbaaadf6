// What is pressed.
import { Link as AriaLink, Button } from "react-aria-components";
import styled, { css } from "styled-components";
import { corner, font, line, size, target, tone } from "./tokens";

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
	&[aria-pressed="true"] { background: ${tone.ink}; color: ${tone.plaster}; }
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
	&[aria-pressed="true"] { font-weight: 600; text-decoration-color: ${tone.ink}; text-decoration-thickness: 2px; }
`;

/** A link that is a button in looks: a download. */
export const ButtonLink = styled(AriaLink)`
	${pressed}
	border: ${line};
	color: ${tone.ink};
	&[data-hovered] { background: ${tone.plasterLow}; }
`;
