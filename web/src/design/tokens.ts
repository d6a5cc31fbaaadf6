// The only place of the page that knows a font or a size; the colours are the palette's. Names are materials; roles are what components use.
import { createGlobalStyle, css } from "styled-components";
import { attic, daylight } from "./palette";

type Tone = keyof typeof daylight;

/** A tone by its name, as it stands in the present theme. */
export const tone = Object.fromEntries(Object.keys(daylight).map((k) => [k, `var(--${k})`])) as Record<Tone, string>;

export const size = { small: "13px", text: "15px", large: "18px", title: "24px", display: "32px" } as const;
export const font = {
	text: `"Atkinson Hyperlegible Next", "Atkinson Hyperlegible", sans-serif`,
	figures: `"Atkinson Hyperlegible Mono", monospace`,
} as const;
/** A line that means something. */
export const line = `1.5px solid ${tone.ink}`;
export const hairline = `1px solid ${tone.plasterLine}`;
export const corner = "4px";
/** Nothing that is pressed is smaller. */
export const target = "44px";

/** Where the layout changes. */
export const at = {
	phone: "@media (max-width: 640px)",
	upright: "@media (max-width: 1000px)",
} as const;

const variables = (t: typeof daylight) =>
	css`${Object.entries(t)
		.map(([k, v]) => `--${k}: ${v};`)
		.join("")}`;

export const GlobalStyle = createGlobalStyle`
	:root { ${variables(daylight)} color-scheme: light; }
	:root[data-theme="attic"] { ${variables(attic)} color-scheme: dark; }
	*, *::before, *::after { box-sizing: border-box; }
	html { -webkit-text-size-adjust: 100%; }
	body { margin: 0; background: ${tone.plaster}; color: ${tone.ink}; font: 400 ${size.text}/1.4 ${font.text}; font-variant-numeric: tabular-nums; }
	h1, h2, h3, p, ul, ol, dl, dd, figure { margin: 0; padding: 0; }
	h1 { font-size: ${size.title}; font-weight: 600; line-height: 1.2; }
	h2 { font-size: ${size.large}; font-weight: 600; line-height: 1.25; }
	h3 { font-size: ${size.text}; font-weight: 600; }
	ul, ol { list-style: none; }
	a { color: ${tone.copper}; text-underline-offset: 3px; }
	:focus-visible, [data-focus-visible] { outline: 3px solid ${tone.copper}; outline-offset: 2px; }
	@media (prefers-reduced-motion: reduce) { *, *::before, *::after { animation: none !important; transition: none !important; } }
`;
