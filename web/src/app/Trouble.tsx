import { useRouteError } from "react-router";
import styled from "styled-components";

const Page = styled.main`max-width: 560px; margin: 15vh auto; padding: 0 20px; display: grid; gap: 12px;`;

/** When a page cannot be shown. What was kept is kept. */
export function Trouble() {
	const error = useRouteError();
	return (
		<Page>
			<h1>This page could not be shown</h1>
			<p>{error instanceof Error ? error.message : "Something went wrong while it was drawn."}</p>
			<p>
				Everything that was kept is safe. <a href={window.location.pathname}>Load it again</a>, or <a href="/">go to the jobs</a>.
			</p>
		</Page>
	);
}

/** When one bench cannot be shown: the strip, the dock and the other benches stay. */
export function BenchTrouble() {
	const error = useRouteError();
	return (
		<div role="alert">
			<h1>This bench could not be shown</h1>
			<p>{error instanceof Error ? error.message : "Something went wrong while it was drawn."}</p>
			<p>
				Everything that was kept is safe. Go on at another bench, or <a href={window.location.pathname}>load this one again</a>.
			</p>
		</div>
	);
}
