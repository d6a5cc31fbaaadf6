import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { newId } from "../api/client";
import { ask, type JobView, useBelongs } from "../api/queries";
import { PlainButton, QuietButton } from "../design/buttons";
import { Row, Soft, Stack } from "../design/layout";

/** The building this is a visit of: shown, or asked. Nothing is joined because an address looks alike. */
export function OfBuilding({ view }: { view: JobView }) {
	const job = view.job.id;
	const house = useQuery(ask.sameHouse(job)).data;
	const belongs = useBelongs();
	if (!house) return null;
	const { building, same_address: others } = house;
	const made = { name: view.job.body.name.replace(/, return$/, ""), address: view.job.body.brief?.address ?? "" };
	const fresh = (join: string[]) =>
		belongs.mutate({ building: newId(), made: { ...made, events: [], reserve_years: 20, things: [] }, join });
	const open = others.filter((o) => !building || o.building !== building.id);
	return (
		<section aria-label="The building">
			<h2>The building</h2>
			<Stack $gap={6}>
				{building ? (
					<Row>
						<span>
							A visit of <Link to={`/buildings/${building.id}`}>{building.body.name}</Link>.
						</span>
						<QuietButton onPress={() => belongs.mutate({ building: building.id, join: [], leave: job })}>
							It is another building
						</QuietButton>
					</Row>
				) : (
					<Row>
						<Soft>This visit belongs to no building yet.</Soft>
						<PlainButton isDisabled={belongs.isPending} onPress={() => fresh([job])}>
							Begin a building with it
						</PlainButton>
					</Row>
				)}
				{open.map((o) => (
					<Row key={o.job}>
						<span>
							<b>{o.name}</b> has the same address <Soft>{[o.visit, o.visited_on].filter(Boolean).join(", ")}</Soft>. Is it the
							same building?
						</span>
						<PlainButton
							isDisabled={belongs.isPending}
							onPress={() => {
								if (building) belongs.mutate({ building: building.id, join: [o.job] });
								else if (o.building) belongs.mutate({ building: o.building, join: [job] });
								else fresh([job, o.job]);
							}}
						>
							Yes, the same
						</PlainButton>
					</Row>
				))}
			</Stack>
		</section>
	);
}
