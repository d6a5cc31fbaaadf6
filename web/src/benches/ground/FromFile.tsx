import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { readReadings } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Chooser } from "../../design/choices";
import { Columns, Figures, Row, Stack } from "../../design/layout";
import { useShown } from "../../parts/units";
import type { GroundRecord } from "./kinds";

import { UNITS } from "./spots";

/** Readings from a file: shown with every bad row before anything is kept. */
export function FromFile({ job, draft, keep }: { job: string; draft: GroundRecord; keep: (g?: GroundRecord) => void }) {
	const u = useShown();
	const [unit, setUnit] = useState(u.start("m", "ft"));
	const [columns, setColumns] = useState<{ along?: string; out?: string; height?: string }>({});
	const [file, setFile] = useState<File | null>(null);
	const [read, setRead] = useState<Schemas["ReadingsFile"] | null>(null);
	const [fault, setFault] = useState("");
	const [busy, setBusy] = useState(false);
	const input = useRef<HTMLInputElement>(null);
	const look = async (of: File, how: { unit: string; along?: string; out?: string; height?: string }) => {
		setBusy(true);
		try {
			setRead(await readReadings(job, of, how));
			setFault("");
		} catch (e) {
			setRead(null);
			setFault((e as Error).message);
		}
		setBusy(false);
	};
	const again = (how: { unit?: string; along?: string; out?: string; height?: string }) => {
		const next = { ...columns, ...how };
		setColumns({ along: next.along, out: next.out, height: next.height });
		if (how.unit) setUnit(how.unit);
		if (file) void look(file, { unit: how.unit ?? unit, ...next });
	};
	const choices = (read?.columns ?? []).map((c) => ({ id: c, name: c }));
	const keepAll = () => {
		if (!read) return;
		const taken = new Set((draft.spots ?? []).map((s) => s.id));
		let n = 0;
		const fresh = read.spots.map((s) => {
			let id = s.id ?? "";
			while (taken.has(id)) id = `R${++n}`;
			taken.add(id);
			return { ...s, id };
		});
		keep({ ...draft, spots: [...(draft.spots ?? []), ...fresh] } as GroundRecord);
		setRead(null);
		setFile(null);
	};
	return (
		<div>
			<Row $gap={8}>
				<h3>From a file</h3>
				<PlainButton onPress={() => input.current?.click()} isDisabled={busy}>
					{busy ? "Reading …" : "Choose CSV or GeoJSON"}
				</PlainButton>
				<input
					ref={input}
					type="file"
					hidden
					aria-label="Readings file"
					accept=".csv,.geojson,.json,text/csv,application/geo+json"
					onChange={(e) => {
						const f = e.target.files?.[0];
						if (f) {
							setFile(f);
							void look(f, { unit, ...columns });
						}
						e.target.value = "";
					}}
				/>
			</Row>
			{fault && <p role="alert">{fault}</p>}
			{read && (
				<Stack>
					<p role="status">{read.words}</p>
					<Columns>
						<Chooser label="Bare numbers are" choices={UNITS} value={unit} onChange={(u) => u && again({ unit: u })} />
						{choices.length > 3 && (
							<>
								<Chooser
									label="Along"
									choices={choices}
									value={read.taken.along ?? null}
									onChange={(along) => along && again({ along })}
								/>
								<Chooser label="Out" choices={choices} value={read.taken.out ?? null} onChange={(out) => out && again({ out })} />
								<Chooser
									label="Height"
									choices={choices}
									value={read.taken.height ?? null}
									onChange={(h) => h && again({ height: h })}
								/>
							</>
						)}
					</Columns>
					{read.bad.length > 0 && (
						<ul aria-label="Rows that cannot be read" style={{ maxHeight: 160, overflowY: "auto" }}>
							{read.bad.map((b) => (
								<li key={b.line}>
									Line {b.line}: {b.message}
								</li>
							))}
						</ul>
					)}
					<Figures>
						{read.spots.slice(0, 5).map((s) => (
							<span key={s.id} style={{ display: "block" }}>
								{s.id}: {s.at?.along} along, {s.at?.out} out, {s.height}
							</span>
						))}
					</Figures>
					<Row $gap={8}>
						<PlainButton onPress={keepAll} isDisabled={read.spots.length === 0}>
							Keep these {read.spots.length} readings
						</PlainButton>
						<QuietButton onPress={() => setRead(null)}>Drop them</QuietButton>
					</Row>
				</Stack>
			)}
		</div>
	);
}
