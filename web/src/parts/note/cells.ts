// Looking up what stands where. Nothing is judged here; the server did that.
import type { Schemas } from "../../api/client";
import type { Finding, JobView, NoteRecord, Place } from "../../api/queries";

export const cellOf = (p: Place): string => (p.zone === "inside" || !p.face ? "inside" : `${p.face}.${p.zone}`);

export interface NotedFinding {
	note: NoteRecord;
	finding: Finding;
}

/** Every note with its judgement, by the cell it belongs to, soonest first. */
export function byCell(view: JobView): Map<string, NotedFinding[]> {
	const notes = new Map(view.notes.map((n) => [n.id, n]));
	const cells = new Map<string, NotedFinding[]>();
	for (const finding of view.findings) {
		const note = notes.get(finding.note_id);
		if (!note) continue;
		const cell = cellOf(note.body.place);
		cells.set(cell, [...(cells.get(cell) ?? []), { note, finding }]);
	}
	return cells;
}

export const reportOf = (view: JobView, cell: string) => view.coverage.cells.find((c) => c.cell === cell);
export const markOf = (view: JobView, cell: string): Schemas["Record_Mark"] | undefined =>
	view.marks.find((m) => m.body.cell === cell);

const plural = (n: number, one: string, many: string) => (n === 1 ? `one ${one}` : `${n} ${many}`);

/** How a cell stands, in words. */
export function standing(view: JobView, cell: string, noted: NotedFinding[]): string {
	const report = reportOf(view, cell);
	const parts: string[] = [];
	if (noted.length > 0) {
		parts.push(plural(noted.length, "note", "notes"));
		const soonest = noted[0]?.finding;
		if (soonest && soonest.ticks >= 4) parts.push(`soonest: ${soonest.urgency_words.toLowerCase()}`);
		if (noted.some((n) => n.finding.hazard)) parts.push("hazard");
	}
	if (report?.state === "limited") parts.push(report.limit ?? "could not be seen");
	if (report?.state === "seen") parts.push("seen, nothing to note");
	if (report?.state === "untouched") parts.push(report.expected ? "not looked at yet" : "not asked for on this visit");
	return parts.join(", ");
}
