import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import type { Schemas } from "../../api/client";
import { ask, type JobView, saveStorm } from "../../api/queries";
import { Drawing } from "../../design/Drawing";
import { Beside, Hazard, Soft, Stack } from "../../design/layout";
import { TabBar } from "../../design/TabBar";
import { Asked } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { type Draft, useDraft } from "../../parts/draft/useDraft";
import { Offered } from "../../parts/Offered";
import { Start } from "../../parts/Start";
import { Costs } from "./Costs";
import { SoftMetal } from "./SoftMetal";
import { Squares } from "./Squares";
import { Told } from "./Told";
import { Which } from "./Which";
import { Wind } from "./Wind";

export type StormPage = Schemas["StormPage"];
export type Visit = Schemas["StormVisit"];

/** What every part of the bench is given. */
export interface PartProps {
	view: JobView;
	page: StormPage;
	editing: Draft<Visit>;
}

/** The slopes as choices, in compass order. */
export const slopesOf = (page: StormPage) => page.account.slopes.map((s) => ({ id: s.facet, name: s.label }));

const PARTS = [
	{ id: "squares", name: "Squares", of: Squares },
	{ id: "soft", name: "Soft metal", of: SoftMetal },
	{ id: "wind", name: "Wind and mending", of: Wind },
	{ id: "which", name: "Which storm", of: Which },
	{ id: "costs", name: "Mend or renew", of: Costs },
] as const;

/** What this storm did, what it did not, and what follows: counted so that a second person finds the same. */
export function Storm() {
	const view = useOutletContext<JobView>();
	return <Asked question={useQuery(ask.storm(view.job.id))}>{(kept) => <Bench view={view} kept={kept} />}</Asked>;
}

function Bench({ view, kept }: { view: JobView; kept: StormPage }) {
	const job = view.job.id;
	const editing = useDraft<Visit>(job, "storm", { value: kept.storm, rev: kept.rev ?? null }, saveStorm(job));
	const changed = JSON.stringify(editing.draft) !== JSON.stringify(kept.storm);
	// Every mark counts at once: what is entered is worked out by the server before it is kept.
	const tried = useQuery(ask.tryStorm(job, changed ? editing.draft : null));
	const page = changed && tried.data ? tried.data : kept;
	const { account } = page;
	const [part, choose] = useState<string>("squares");
	const [square, setSquare] = useState<string | null>(null);
	const shown = PARTS.find((p) => p.id === part) ?? PARTS[0];
	const Part = shown.of;
	return (
		<>
			<h1>Storm</h1>
			<Clashes draft={editing} what="The count after the storm" />
			{account.slopes.length === 0 ? (
				<Start of="square">
					Measure the roof first, on the Roof bench. Then Trowel draws the place of each test square before anyone looks, you
					count, and a second person can count the same ones again.
				</Start>
			) : (
				<Soft>
					A count, not an opinion on who pays. <Hazard>{account.cautions[0]}</Hazard>
				</Soft>
			)}
			{account.problems.map((p) => (
				<p key={p} role="alert">
					{p}
				</p>
			))}
			{page.plan && (
				<Beside>
					<Drawing
						svg={page.plan}
						chosen={{ kind: "square", id: square ?? account.squares[0]?.id ?? "" }}
						onChoose={(c) => {
							if (c.kind !== "square") return;
							setSquare(c.id);
							choose("squares");
						}}
						most="400px"
					/>
					<Stack $gap={6}>
						{page.rates ? <Drawing svg={page.rates} most="300px" /> : <Soft>No square has been counted yet.</Soft>}
						{account.directional_words && <p>{account.directional_words}</p>}
						{account.unreached.map((u) => (
							<Soft key={u}>{u}</Soft>
						))}
					</Stack>
				</Beside>
			)}
			{account.slopes.length > 0 && (
				<TabBar label="Parts of the count" chosen={shown.id} onChoose={choose} tabs={PARTS.map(({ id, name }) => ({ id, name }))}>
					<Part view={view} page={page} editing={editing} square={square} onSquare={setSquare} />
				</TabBar>
			)}
			<Told page={page} editing={editing} onSquare={setSquare} />
			<Offered view={view} offered={account.offered} name="What may be noted on the round" />
			{account.cautions.length > 1 && (
				<ul aria-label="Cautions">
					{account.cautions.slice(1).map((c) => (
						<li key={c}>{c}</li>
					))}
				</ul>
			)}
		</>
	);
}
