import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ask, type JobView, type ReportWanted } from "../../api/queries";
import { ButtonLink } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Columns, Row, Soft, Stack } from "../../design/layout";
import { at, tone } from "../../design/tokens";
import { Unanswered } from "../../parts/Asked";

const Pages = styled.ol<{ $letter: boolean }>`
	display: grid;
	gap: 12px;
	max-height: calc(100dvh - 150px);
	overflow: auto;
	padding: 2px;
	img, i { width: 100%; aspect-ratio: ${(p) => (p.$letter ? "8.5 / 11" : "210 / 297")}; border: 1px solid ${tone.inkSoft}; display: block; background: #fff; }
	${at.upright} { position: static; }
`;

const CUTS = [
	{ id: "full", name: "The whole report" },
	{ id: "note", name: "One page" },
	{ id: "insurer", name: "Roof statement for an insurer" },
];

/** The report as it will print, or another cut of the same account, on the sheet its reader uses. */
export function Preview({ view, trades }: { view: JobView; trades: Schemas["TradeWork"][] }) {
	const job = view.job.id;
	const [cut, setCut] = useState("full");
	const [paper, setPaper] = useState<ReportWanted["paper"]>(view.units === "us" ? "letter" : "a4");
	const trade = cut.startsWith("trade ") ? cut.slice(6) : undefined;
	const wanted: ReportWanted = trade ? { cut: "trade", paper, trade } : { cut: cut as ReportWanted["cut"], paper };
	const overview = useQuery({ ...ask.report(job, view.version, wanted), placeholderData: keepPreviousData });
	const version = overview.data?.version ?? "";
	const query = new URLSearchParams({ ...wanted });
	const lists = trades.map((t) => ({ id: `trade ${t.name}`, name: `Work list: ${t.name.toLowerCase()} (${t.findings})` }));
	return (
		<section aria-label="Preview">
			<Stack $gap={8}>
				<Columns>
					<Chooser label="For whom" choices={[...CUTS, ...lists]} value={cut} onChange={(c) => c && setCut(c)} />
					<Chooser
						label="Sheet"
						choices={[
							{ id: "a4", name: "A4" },
							{ id: "letter", name: "Letter" },
						]}
						value={paper}
						onChange={(p) => p && setPaper(p as ReportWanted["paper"])}
					/>
				</Columns>
				<Row $between>
					<Soft>
						{overview.data
							? `As it will print: ${overview.data.pages} ${overview.data.pages === 1 ? "page" : "pages"}`
							: overview.error
								? "The report could not be set."
								: "Setting the report…"}
					</Soft>
					<ButtonLink href={`/api/jobs/${job}/report.pdf?${query}`} download>
						Download PDF
					</ButtonLink>
				</Row>
				<Unanswered question={overview} />
				{overview.data?.warnings.map((w) => (
					<p key={w}>
						<Soft>{w}</Soft>
					</p>
				))}
			</Stack>
			<Pages tabIndex={0} aria-label="Pages of the report" $letter={paper === "letter"}>
				{overview.data && (
					<Sheets
						key={`${version} ${query}`}
						count={overview.data.pages}
						at={(page) => `/api/jobs/${job}/report/pages/${page}?${query}&v=${encodeURIComponent(version)}`}
					/>
				)}
			</Pages>
		</section>
	);
}

/** Pages are set a little before they come into sight. */
const BEFORE_SIGHT = "300px";

/**
 * The pages that are in sight, one after the other. A browser has six ways to one server: were all of them taken by pages that are being
 * set, what is typed meanwhile would wait behind them before it is kept.
 */
function Sheets({ count, at }: { count: number; at: (page: number) => string }) {
	const [near, setNear] = useState<ReadonlySet<number>>(new Set([1]));
	const [done, setDone] = useState<ReadonlySet<number>>(new Set());
	const places = useRef(new Map<number, HTMLLIElement>());
	// biome-ignore lint/correctness/useExhaustiveDependencies: as many pages, as many places
	useEffect(() => {
		const page = (e: Element) => Number((e as HTMLElement).dataset.page);
		const seen = new IntersectionObserver(
			(all) =>
				setNear((now) => {
					const next = new Set(now);
					for (const e of all) {
						if (e.isIntersecting) next.add(page(e.target));
						else next.delete(page(e.target));
					}
					return next;
				}),
			{ rootMargin: BEFORE_SIGHT },
		);
		for (const place of places.current.values()) seen.observe(place);
		return () => seen.disconnect();
	}, [count]);
	const pages = Array.from({ length: count }, (_, i) => i + 1);
	const now = pages.find((p) => near.has(p) && !done.has(p));
	const through = (page: number) => () => setDone((all) => new Set(all).add(page));
	return pages.map((page) => (
		<li
			key={page}
			data-page={page}
			ref={(place) => {
				if (place) places.current.set(page, place);
				else places.current.delete(page);
			}}
		>
			{page === now || done.has(page) ? (
				<img
					src={at(page)}
					alt={`Page ${page} of the report; its text is in the PDF`}
					onLoad={through(page)}
					onError={through(page)}
				/>
			) : (
				<i />
			)}
		</li>
	));
}
