import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import { ask, type JobView, saveWalls } from "../../api/queries";
import { Soft, Stack } from "../../design/layout";
import { TabBar } from "../../design/TabBar";
import { Asked } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { useDraft } from "../../parts/draft/useDraft";
import { Cladding } from "./Cladding";
import { Cracks } from "./Cracks";
import type { Walls as Record, WallsPage } from "./kinds";
import { Laps } from "./Laps";
import { List } from "./List";
import { Matrix } from "./Matrix";

/** Does each piece lie over the one below, and what must be seen before it is closed up? */
export function Walls() {
	const view = useOutletContext<JobView>();
	return <Asked question={useQuery(ask.walls(view.job.id))}>{(page) => <Bench view={view} kept={page} />}</Asked>;
}

type Part = "matrix" | "laps" | "list" | "cladding" | "cracks";

function Bench({ view, kept }: { view: JobView; kept: WallsPage }) {
	const job = view.job.id;
	const before = view.job.body.brief?.visit === "before-cladding";
	const [part, setPart] = useState<Part>(before ? "matrix" : "laps");
	const editing = useDraft<Record>(job, "walls", { value: kept.walls, rev: kept.rev ?? null }, saveWalls(job));
	const walls = editing.draft;
	// What follows from what is typed, at once; the server works it out, and keeps nothing for it.
	const changed = JSON.stringify(walls) !== JSON.stringify(kept.walls);
	const tried = useQuery(ask.tryWalls(job, changed ? walls : null));
	const page = changed && tried.data ? tried.data : kept;
	const { account } = page;
	const open = account.do_not_cover.filter((e) => e.again !== "mended").length;
	const props = { view, page, walls, editing };
	return (
		<>
			<h1>Walls</h1>
			<Clashes draft={editing} what="The walls" />
			<Soft>
				{account.matrix.openings.length > 0
					? account.matrix.sentence
					: "Each piece lies over the piece below it, or a seal does the work, and seals age."}
			</Soft>
			<TabBar
				label="Parts of the walls"
				chosen={part}
				onChoose={(p) => setPart(p as Part)}
				tabs={[
					{ id: "matrix", name: "Before cladding" },
					{ id: "laps", name: "Laps" },
					{ id: "list", name: `Do not cover (${open})` },
					{ id: "cladding", name: "Cladding" },
					{ id: "cracks", name: "Cracks and floor" },
				]}
			>
				<Stack>
					{part === "matrix" && <Matrix {...props} />}
					{part === "laps" && <Laps {...props} />}
					{part === "list" && <List {...props} />}
					{part === "cladding" && <Cladding {...props} />}
					{part === "cracks" && <Cracks {...props} />}
				</Stack>
			</TabBar>
		</>
	);
}
