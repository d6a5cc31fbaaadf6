import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import { ask, type JobView } from "../../api/queries";
import { useWhere } from "../../app/where";
import { ButtonLink } from "../../design/buttons";
import { type Chosen, Drawing } from "../../design/Drawing";
import { Beside, Row, Soft, Stack } from "../../design/layout";
import { TabBar } from "../../design/TabBar";
import { at, hairline, tone } from "../../design/tokens";
import { Asked } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { Start } from "../../parts/Start";
import { useShown } from "../../parts/units";
import { Details } from "./Details";
import { Edges } from "./Edges";
import { GoingUp } from "./GoingUp";
import { Life } from "./Life";
import { Measured } from "./Measured";
import { Slopes } from "./Slopes";
import { type Page, useRoof } from "./useRoof";

const Faces = styled.div`display: grid; grid-template-columns: repeat(4, minmax(0, 1fr)); gap: 10px; border-top: ${hairline}; padding-top: 10px; margin-top: 6px; ${at.phone} { grid-template-columns: repeat(2, minmax(0, 1fr)); }`;
const Doubts = styled.ul`li { border-left: 4px solid ${tone.ochre}; padding: 4px 10px; margin-top: 6px; color: ${tone.ochre}; }`;

const Sentence = styled.p`max-width: 78ch; margin-top: 4px; b { font-weight: 600; }`;

const PARTS = ["Measured", "Edges", "Details", "Going up", "Age and life"] as const;

/** The roof: what was measured, and everything that follows from it. */
export function Roof() {
	const view = useOutletContext<JobView>();
	return <Asked question={useQuery(ask.roof(view.job.id))}>{(page) => <Bench view={view} page={page} />}</Asked>;
}

function Bench({ view, page }: { view: JobView; page: Page }) {
	const u = useShown();
	const where = useWhere();
	const editing = useRoof(view.job.id, page);
	const [chosen, setChosen] = useState<Chosen | null>(null);
	const [part, setPart] = useState<(typeof PARTS)[number]>(page.account.shape ? "Age and life" : "Measured");
	const { account } = page;
	const shape = account.shape;
	const here = account.slopes.filter((s) => where.cell === `${s.face}.roof`).map((s) => s.facet);

	// What is chosen anywhere sets the place everywhere.
	const choose = (c: Chosen) => {
		setChosen(c);
		const face = (facet: string | undefined) => account.slopes.find((s) => s.facet === facet)?.face;
		if (c.kind === "facet") where.setCell(`${face(c.id)}.roof`);
		if (c.kind === "edge") {
			const edge = shape?.edges.find((e) => e.id === c.id);
			where.setCell(`${face(edge?.facet)}.${edge && !edge.other ? "edge" : "roof"}`);
		}
		if (c.kind === "detail") {
			const place = account.details.find((d) => d.key === c.id)?.place;
			if (place?.face) where.setCell(`${place.face}.${place.zone}`);
			setPart("Details");
		}
	};
	const file = (ending: string) => `/api/jobs/${view.job.id}/roof.${ending}`;
	return (
		<>
			<Row $between>
				<div>
					<h1>Roof</h1>
					<Clashes draft={editing} what="The roof" />
					<Soft>
						{shape
							? `${u.area(shape.plan_area_m2)} seen from above, ${u.area(shape.true_area_m2)} along the slopes: ${shape.squares.toFixed(1)} squares.`
							: "Nothing measured yet."}
					</Soft>
				</div>
				{shape && (
					<Row $gap={6}>
						{["svg", "geojson", "dxf"].map((e) => (
							<ButtonLink key={e} href={file(e)} download>
								{e === "geojson" ? "GeoJSON" : e.toUpperCase()}
							</ButtonLink>
						))}
					</Row>
				)}
			</Row>
			{!shape && (
				<Start of="walls">
					Start at the front left corner and walk the walls clockwise with a tape: length, turn, length, turn, as in “18 L 9 L 18
					L 9”. Or type the masses below.
				</Start>
			)}
			{account.coverings.map((c) => (
				<Sentence key={c.covering}>
					<b>{c.name.replace(/^./, (x) => x.toUpperCase())}.</b> {c.sentence}
				</Sentence>
			))}
			{account.problem && (
				<Doubts role="alert">
					<li>{account.problem}</li>
				</Doubts>
			)}
			{shape && page.plan && (
				<>
					<Beside>
						<Drawing svg={page.plan} chosen={chosen} here={here} onChoose={choose} most="430px" />
						<Slopes account={account} chosen={chosen} here={here} onChoose={choose} />
					</Beside>
					<Faces>
						{page.elevations.map((svg, i) => (
							<Drawing key={account.elevations[i]?.face} svg={svg} chosen={chosen} here={here} onChoose={choose} />
						))}
					</Faces>
				</>
			)}
			{account.doubts.length > 0 && (
				<Doubts aria-label="To look at again">
					{account.doubts.map((d) => (
						<li key={d}>{d}</li>
					))}
				</Doubts>
			)}
			<TabBar
				label="Parts of the roof"
				chosen={part}
				onChoose={(p) => setPart(p as (typeof PARTS)[number])}
				tabs={PARTS.filter((p) => shape || p === "Measured").map((p) => ({
					id: p,
					name: p === "Details" ? `Details (${account.details.filter((d) => d.state === "open").length} open)` : p,
				}))}
			>
				<Stack>
					{part === "Measured" && <Measured view={view} page={page} editing={editing} />}
					{part === "Edges" && shape && <Edges account={account} shape={shape} chosen={chosen} onChoose={choose} />}
					{part === "Details" && <Details view={view} page={page} chosen={chosen} onChoose={choose} />}
					{part === "Going up" && <GoingUp job={view.job.id} account={account} editing={editing} />}
					{part === "Age and life" && <Life view={view} page={page} editing={editing} chosen={chosen} onChoose={choose} />}
				</Stack>
			</TabBar>
		</>
	);
}
