import type { Schemas } from "../../api/client";
import { useKeepLine } from "../../api/queries";
import { QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { Item } from "../../parts/Item";
import type { PartProps } from "./kinds";

type Again = Schemas["Again"];

const AGAIN: { id: Again; name: string }[] = [
	{ id: "mended", name: "Mended, and seen" },
	{ id: "mended-unseen", name: "Said to be mended, not seen" },
	{ id: "covered-unseen", name: "Covered unseen" },
	{ id: "still-wrong", name: "Still wrong" },
];

/** What must be seen again before it is closed up, and what became of it. */
export function List({ view, page, walls, editing }: PartProps) {
	const line = useKeepLine(view.job.id);
	const list = page.account.do_not_cover;
	if (list.length === 0) return <p>Nothing is on the list: nothing was found wrong before cladding.</p>;
	const set = (key: string, again: Again | null) => {
		const { [key]: _, ...rest } = walls.again ?? {};
		editing.keep({ ...walls, again: again === null ? rest : { ...rest, [key]: again } });
	};
	return (
		<>
			<p>
				Each of these must be seen again before it is closed up. Whatever is covered unseen stays so in the report: nobody can
				vouch for it.
			</p>
			<ul aria-label="Do not cover">
				{list.map((e) => (
					<Item key={e.key}>
						<Stack $gap={2}>
							<b>{e.what}</b>
							{e.text && <Soft>{e.text}</Soft>}
						</Stack>
						<Row $gap={10}>
							{e.noted ? (
								<Soft>noted</Soft>
							) : (
								<QuietButton
									onPress={() =>
										line.mutate(
											{ line: e.text ? `${e.what}: ${e.text}` : e.what, place: e.place, conditions: [e.condition] },
											{ onSuccess: () => say("Noted on the round.") },
										)
									}
								>
									Note it
								</QuietButton>
							)}
							<Chooser
								label={`At the next visit: ${e.what}`}
								hideLabel
								choices={AGAIN}
								value={e.again ?? null}
								onChange={(a) => set(e.key, a as Again | null)}
								placeholder="To be seen again"
							/>
							{e.again && <QuietButton onPress={() => set(e.key, null)}>Open again</QuietButton>}
						</Row>
					</Item>
				))}
			</ul>
		</>
	);
}
