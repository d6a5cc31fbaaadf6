import styled from "styled-components";
import { newId, type Schemas } from "../../api/client";
import { type JobView, type Note, useNewNote } from "../../api/queries";
import { QuietButton } from "../../design/buttons";
import { Drawing } from "../../design/Drawing";
import { Hazard, Soft } from "../../design/layout";
import { say } from "../../design/Notices";
import { hairline } from "../../design/tokens";
import { Item } from "../../parts/Item";
import type { GroundPage } from "./kinds";

const Profile = styled.section`border-top: ${hairline}; padding: 10px 0;`;
const Scroll = styled.div`overflow-x: auto; > div { min-width: 480px; max-width: 720px; }`;

/** Keeps a sentence as something to do at a place on the ground. */
export function useRecommend(view: JobView) {
	const note = useNewNote(view.job.id);
	return (face: NonNullable<Note["place"]["face"]>, text: string, kept = () => {}) => {
		const body: Note = {
			place: { face, zone: "ground" },
			kind: "recommendation",
			text,
			measures: [],
			at: new Date().toISOString(),
		};
		// Said even when what asked is gone from the page by then.
		note.mutateAsync({ id: newId(), body }).then(
			() => {
				say("Kept as a recommendation.");
				kept();
			},
			(e: Error) => say(e.message, { wrong: true }),
		);
	};
}

export const Dig = () => (
	<p>
		<Hazard>Hazard.</Hazard> Call before digging: have buried services located first. Near gas and electricity a licensed trade
		digs.
	</p>
);

/** Every transect: what it falls, what is asked, and what would give it. */
export function Transects({ view, page }: { view: JobView; page: GroundPage }) {
	const recommend = useRecommend(view);
	const { transects } = page.account;
	if (transects.length === 0) return null;
	const digs = transects.some((t) => t.remedies.some((r) => r.digs));
	const order = transects.map((t, k) => ({ t, k })).sort((a, b) => Number(a.t.right) - Number(b.t.right));
	return (
		<section aria-label="Transects">
			<h2>Transects</h2>
			{digs && <Dig />}
			{order.map(({ t, k }) => (
				<Profile key={`${t.mass}${t.face}${t.station_m}`}>
					<p>{t.sentence}</p>
					{!t.right && page.profiles[k] && (
						<Scroll>
							<Drawing svg={page.profiles[k]} />
						</Scroll>
					)}
					{t.remedies.length > 0 && (
						<ul>
							{t.remedies.map((r: Schemas["GroundRemedy"]) => (
								<Item key={r.kind}>
									<span>
										{r.sentence} {!r.possible && <Soft>not possible as it is</Soft>}
									</span>
									{r.possible && (
										<QuietButton
											onPress={() =>
												recommend(
													t.face,
													`${t.sentence} ${r.sentence}${r.digs ? " Have buried services located before digging." : ""}`,
												)
											}
										>
											Keep as recommendation
										</QuietButton>
									)}
								</Item>
							))}
						</ul>
					)}
				</Profile>
			))}
		</section>
	);
}
