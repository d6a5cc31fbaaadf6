import { QuietButton } from "../../design/buttons";
import { Soft } from "../../design/layout";
import { say } from "../../design/Notices";
import { Item } from "../../parts/Item";
import type { PartProps } from "./Storm";

/** Counts that were told on the round and stand in no square yet: each goes into the square that waits for it when somebody says so. */
export function Told({ page, editing, onSquare }: Pick<PartProps, "page" | "editing"> & { onSquare: (id: string) => void }) {
	const { said } = page.account;
	if (said.length === 0) return null;
	const count = (id: string, hits: number, largest: string) => {
		const squares = (editing.draft.squares ?? []).map((q) =>
			q.id === id ? { ...q, counted: true, unplaced: hits, largest } : q,
		);
		editing.keep({ ...editing.draft, squares });
		onSquare(id);
		say(`Counted in ${id}.`);
	};
	return (
		<ul aria-label="Counts told on the round">
			{said.map((s) => (
				<Item key={s.note_id}>
					<span>Told on the round: “{s.text}”</span>
					{s.square ? (
						<QuietButton onPress={() => count(s.square ?? "", s.said.hits, s.said.largest)}>Count it in {s.square}</QuietButton>
					) : (
						<Soft>no square on that side waits for it: draw one, and count there</Soft>
					)}
				</Item>
			))}
		</ul>
	);
}
