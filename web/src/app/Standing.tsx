// How what was typed stands: always true, always in sight.
import { useEffect, useSyncExternalStore } from "react";
import { Link, useLocation } from "react-router";
import styled from "styled-components";
import { queryClient, useChanges } from "../api/queries";
import { useReached, whenBack } from "../api/reach";
import { Soft } from "../design/layout";
import { line, tone } from "../design/tokens";
import { allBack, elsewhere, lookedAt, type Standing as State, standing, watch } from "../parts/draft/keeper";
import { BENCHES } from "./benches";

const Line = styled.p`grid-column: 1 / -1; padding: 8px 18px; border-bottom: ${line}; border-left: 6px solid ${tone.ochre}; background: ${tone.plasterLow};`;

const WORDS: Record<State, string> = {
	kept: "All kept",
	typed: "Not kept yet",
	saving: "Keeping…",
	waiting: "Waiting for the server",
	refused: "Not kept: see the field",
	clash: "Two versions: choose",
};

/** The same where it has to be gone to first. */
const AWAY: Partial<Record<State, string>> = { refused: "Not kept", clash: "Two versions" };

const parts = (path: string) => /^\/jobs\/([^/]+)(?:\/([^/]+))?/.exec(path) ?? [];

/** The way to what is not kept, where that is not in sight. */
function There({ to, from }: { to: string; from: string }) {
	const [, job, bench] = parts(to);
	const name = BENCHES.find(([path]) => path === bench)?.[1] ?? "another page";
	return <Link to={to}>{job && job !== parts(from)[1] ? "in another job" : `on ${name}`}</Link>;
}

/** Drafts and changes together: the worst of them. */
export function Standing() {
	const { pathname } = useLocation();
	useEffect(() => lookedAt(pathname), [pathname]);
	const there = useSyncExternalStore(watch, elsewhere);
	const drafts = useSyncExternalStore(watch, standing);
	const changes = useChanges();
	const worst: State = drafts === "kept" || (drafts === "typed" && changes !== "kept") ? changes : drafts;
	const away = worst === drafts ? there : null;
	const open = worst !== "kept";
	// Leaving with something that is not kept is asked about.
	useEffect(() => {
		if (!open) return;
		const ask = (e: BeforeUnloadEvent) => e.preventDefault();
		window.addEventListener("beforeunload", ask);
		return () => window.removeEventListener("beforeunload", ask);
	}, [open]);
	return (
		<Soft
			role="status"
			style={{ minWidth: 62, lineHeight: 1.2, ...(worst === "saving" || !open ? {} : { color: tone.ochre, fontWeight: 600 }) }}
		>
			{away === null ? (
				WORDS[worst]
			) : (
				<>
					{AWAY[worst] ?? WORDS[worst]}, <There to={away} from={pathname} />
				</>
			)}
		</Soft>
	);
}

/** A strip while the server is not reached; the page below stays as it is. */
export function Unreached() {
	const reached = useReached();
	useEffect(
		() =>
			whenBack(() => {
				allBack();
				void queryClient.invalidateQueries();
			}),
		[],
	);
	if (reached) return null;
	return (
		<Line role="alert">
			The server is not reached. You can go on: what you type stays here and is kept when it is back. What is shown may be older.
		</Line>
	);
}
