import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";
import { newId } from "../../api/client";
import { ask, type JobView, useStartReturn } from "../../api/queries";
import { PlainButton } from "../../design/buttons";
import { Row, Soft, Stack } from "../../design/layout";
import { OfBuilding } from "../../parts/OfBuilding";

/** What comes after this visit: the return, and the building over the years. */
export function Afterwards({ view }: { view: JobView }) {
	const navigate = useNavigate();
	const start = useStartReturn(view.job.id);
	const house = useQuery(ask.sameHouse(view.job.id)).data;
	const lines = view.findings.filter((f) => f.section === "findings" && f.in_report).length;
	return (
		<Stack>
			<section aria-label="Return visit">
				<h2>Return visit</h2>
				<p>
					Every recommendation becomes a line to answer, with its picture of today beside the one of then. Wait until everything
					is said to be mended: a visit before that is paid for twice.
				</p>
				<Row>
					<PlainButton
						isDisabled={start.isPending}
						onPress={() => start.mutate(newId(), { onSuccess: (job) => navigate(`/jobs/${job.id}/return`) })}
					>
						Start a return visit
					</PlainButton>
					<Soft>
						{lines} {lines === 1 ? "recommendation" : "recommendations"} to answer.
					</Soft>
				</Row>
			</section>
			<OfBuilding view={view} />
			{house?.building && (
				<p>
					Time line, places, series, upkeep and reserve stand on{" "}
					<Link to={`/buildings/${house.building.id}`}>the building's page</Link>.
				</p>
			)}
		</Stack>
	);
}
