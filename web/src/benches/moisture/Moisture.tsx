import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useOutletContext } from "react-router";
import type { Schemas } from "../../api/client";
import { ask, type JobView, saveMoisture } from "../../api/queries";
import { Soft, Stack } from "../../design/layout";
import { TabBar } from "../../design/TabBar";
import { Asked } from "../../parts/Asked";
import { Clashes } from "../../parts/draft/Clashes";
import { type Draft, useDraft } from "../../parts/draft/useDraft";
import { Start } from "../../parts/Start";
import { Air } from "./Air";
import { Days } from "./Days";
import { Heat } from "./Heat";
import { Maps } from "./Maps";
import { Rooms } from "./Rooms";

export type MoisturePage = Schemas["MoisturePage"];
type Kept = Schemas["Moisture"];

/** What every part of the bench is given. */
export interface PartProps {
	view: JobView;
	page: MoisturePage;
	editing: Draft<Kept>;
	rooms: Schemas["Room"][];
	/** The day new readings are of: that of the visit. */
	day: string;
}

/** Where is it wet, against what is surely dry; does it dry; is it the room's own air? */
export function Moisture() {
	const view = useOutletContext<JobView>();
	return <Asked question={useQuery(ask.moisture(view.job.id))}>{(page) => <Bench view={view} page={page} />}</Asked>;
}

type Part = "maps" | "rooms" | "air" | "heat" | "days";

function Bench({ view, page }: { view: JobView; page: MoisturePage }) {
	const job = view.job.id;
	const editing = useDraft<Kept>(job, "moisture", { value: page.moisture, rev: page.rev ?? null }, saveMoisture(job));
	const rooms = editing.draft.rooms ?? [];
	const [part, setPart] = useState<Part>(rooms.length === 0 ? "rooms" : "maps");
	const { account } = page;
	const day = view.job.body.brief?.visited_on ?? new Date().toISOString().slice(0, 10);
	const props = { view, page, editing, rooms, day };
	const open = account.heat.flatMap((h) => h.patches).filter((p) => p.state === "unconfirmed").length;
	return (
		<>
			<h1>Moisture</h1>
			<Clashes draft={editing} what="The readings" />
			{account.maps.length === 0 && rooms.length === 0 ? (
				<Start of="meter">
					Tape the room that is wet. Then read three places of the same material that are surely dry, and only then the wet one: a
					figure alone says nothing.
				</Start>
			) : (
				<Soft>A reading counts by how far it lies over places that are surely dry. Nothing is drawn beyond the readings.</Soft>
			)}
			{account.left.length > 0 && (
				<ul aria-label="What is left to do">
					{account.left.map((l) => (
						<li key={l}>{l}</li>
					))}
				</ul>
			)}
			{account.doubts.map((d) => (
				<p key={d}>
					<Soft>{d}</Soft>
				</p>
			))}
			<TabBar
				label="Parts of the moisture"
				chosen={part}
				onChoose={(p) => setPart(p as Part)}
				tabs={[
					{ id: "maps", name: "Readings" },
					{ id: "rooms", name: "Rooms" },
					{ id: "air", name: "Air" },
					{ id: "heat", name: open > 0 ? `Heat (${open} not confirmed)` : "Heat" },
					{ id: "days", name: "Over days" },
				]}
			>
				<Stack>
					{part === "maps" && <Maps {...props} />}
					{part === "rooms" && <Rooms {...props} />}
					{part === "air" && <Air {...props} />}
					{part === "heat" && <Heat {...props} />}
					{part === "days" && <Days {...props} />}
				</Stack>
			</TabBar>
		</>
	);
}
