// The test page has no styles of its own worth asking for: the sheets say how things look, which no test here can see. jsdom goes
// through every rule of every sheet each time it is asked, which was a quarter of the time of all tests. What is asked for by those who
// look for a role, a name or what can be focused is answered from the element: whether it shows, and whether it stands in a line.

const IN_LINE = new Set(
	"a abbr b button cite code em i img input kbd label mark output q s select small span strong sub sup textarea time u".split(
		" ",
	),
);
const NEVER = new Set("head link meta script style template title".split(" "));

const styled = (e: Element) => ("style" in e ? (e as HTMLElement).style : undefined);

function display(e: Element): string {
	const own = styled(e)?.display;
	if (own) return own;
	if (e.hasAttribute("hidden") || NEVER.has(e.localName)) return "none";
	return IN_LINE.has(e.localName) ? "inline" : "block";
}

/** Visibility is handed down from the nearest element that says any. */
function visibility(e: Element): string {
	for (let at: Element | null = e; at; at = at.parentElement) {
		const own = styled(at)?.visibility;
		if (own) return own;
	}
	return "visible";
}

const camel = (name: string) => name.replace(/-(.)/g, (_, letter: string) => letter.toUpperCase());

/** What stands in for `getComputedStyle` in tests. */
export function styleOf(e: Element, pseudo?: string | null): CSSStyleDeclaration {
	const own = pseudo ? undefined : styled(e);
	const value = (name: string): unknown => {
		if (name === "display") return pseudo ? "inline" : display(e);
		if (name === "visibility") return visibility(e);
		if (name === "content") return pseudo ? "none" : "normal";
		if (name === "direction") return "ltr";
		return own?.[name as keyof CSSStyleDeclaration] ?? "";
	};
	const asked = { getPropertyValue: (name: string) => String(value(camel(name))) };
	return new Proxy(asked, {
		get: (of, name) => (name in of ? of.getPropertyValue : typeof name === "string" ? value(name) : undefined),
	}) as unknown as CSSStyleDeclaration;
}
