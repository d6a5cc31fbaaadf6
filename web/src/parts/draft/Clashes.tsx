import { useState } from "react";
import styled from "styled-components";
import { MainButton } from "../../design/buttons";
import { RadioChoice } from "../../design/choices";
import { Row, Soft } from "../../design/layout";
import { line, tone } from "../../design/tokens";
import type { Clash } from "./merge";
import type { Draft } from "./useDraft";

const Why = styled.p`border-left: 6px solid ${tone.ochre}; padding: 4px 12px; margin: 6px 0;`;
const Both = styled.section`border: ${line}; border-left: 6px solid ${tone.ochre}; padding: 10px 14px; display: grid; gap: 12px;`;

/** A value as a person reads it. */
function shown(v: unknown): string {
	if (v === null || v === undefined || v === "") return "nothing";
	if (Array.isArray(v)) return v.length === 0 ? "nothing" : v.map(shown).join("; ");
	if (typeof v === "object")
		return Object.entries(v)
			.filter(([, x]) => x !== null && x !== "")
			.map(([k, x]) => `${k.replaceAll("_", " ")} ${shown(x)}`)
			.join(", ");
	return String(v);
}

const name = (c: Clash) => {
	const words = c.path
		.filter((p) => p !== "brief")
		.join(" · ")
		.replaceAll("_", " ");
	return words === "" ? "All of it" : words.charAt(0).toUpperCase() + words.slice(1);
};

/** Why what was typed is not kept; and of fields that were changed here and elsewhere both versions, with a choice for each. */
export function Clashes<T>({ draft, what }: { draft: Draft<T>; what: string }) {
	const [chosen, setChosen] = useState<{ [field: string]: "mine" | "theirs" }>({});
	// Also where its field stands in a fold, or on another part of the bench.
	const why = draft.standing === "refused" ? (draft.fault ?? Object.values(draft.wrong)[0]) : undefined;
	if (draft.clashes.length === 0) return why ? <Why role="alert">Not kept: {why}</Why> : null;
	const id = (c: Clash) => c.path.join(".");
	const keep = () => {
		for (const c of draft.clashes) draft.choose(c.path, chosen[id(c)] ?? "mine");
		setChosen({});
	};
	return (
		<Both role="alert" aria-label={`${what} was changed elsewhere`}>
			<b>{what} was changed elsewhere while you had it open.</b>
			<Soft>Everything else was brought together. Choose for these:</Soft>
			{draft.clashes.map((c) => (
				<RadioChoice
					key={id(c)}
					label={name(c)}
					value={chosen[id(c)] ?? "mine"}
					onChange={(v) => setChosen({ ...chosen, [id(c)]: v as "mine" | "theirs" })}
					choices={[
						{ id: "mine", name: `Mine: ${shown(c.mine)}` },
						{ id: "theirs", name: `The other: ${shown(c.theirs)}` },
					]}
				/>
			))}
			<Row>
				<MainButton onPress={keep}>Keep what is chosen</MainButton>
			</Row>
		</Both>
	);
}
