import { useState } from "react";
import type { Schemas } from "../../api/client";
import { readHeatFile, readHeatPicture, takeHeat } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Tick } from "../../design/choices";
import { Field } from "../../design/fields";
import { Columns, Folded, Row, Soft, Stack } from "../../design/layout";
import { say } from "../../design/Notices";
import { NumberBox } from "../../design/numbers";
import { useHalf } from "../../parts/draft/useHalf";
import { firstPlace, OnSurface } from "../../parts/OnSurface";
import { nextId, rowsOf } from "../../parts/rows";
import { UnitBox } from "../../parts/UnitBox";
import { useShown } from "../../parts/units";
import { asked } from "./Meter";
import type { PartProps } from "./Moisture";

type Picture = Schemas["HeatPicture"];

/** Pictures of heat: first whether they may be used, then their patches, each unconfirmed until the meter was there. */
export function Heat({ view, page, editing, rooms, day }: PartProps) {
	const u = useShown();
	const list = rowsOf<Schemas["Moisture"], "heat", Picture>(editing, "heat");
	const [at, setAt] = useState({
		...firstPlace(u, rooms),
		part: "ceiling" as const,
		along: u.start("0 m", "0 ft"),
		up: u.start("0 m", "0 ft"),
	} as Schemas["OnSurface"]);
	const [text, setText] = useHalf(`${view.job.id} heat table`);
	const [cell, setCell] = useState<number | null>(0.1);
	const [pixel, setPixel] = useState<number | null>(0.01);
	// Hundredths of a kelvin, as most cameras write them.
	const [zero, setZero] = useState<number | null>(-273.15);
	const [step, setStep] = useState<number | null>(0.01);
	const [now, setNow] = useState<Schemas["HeatConditions"]>({
		inside_c: 20,
		outside_c: 6,
		sun_hours_ago: null,
		wet: false,
		windy: false,
	});
	const keep = (t: Schemas["HeatTaken"]) =>
		list.add((all) => ({
			id: nextId("T", all),
			at,
			cell_m: t.cell_m,
			grid: t.grid,
			conditions: now,
			source: t.source,
			on: day,
		}));
	const attempt = async (get: () => Promise<Schemas["HeatTaken"]>) => {
		try {
			keep(await get());
			return true;
		} catch (e) {
			say((e as Error).message, { wrong: true });
			return false;
		}
	};
	// The table that was read is done with; one typed meanwhile, or beside a picture of the camera, stays.
	const readTable = async () => {
		const asked = text;
		if (await attempt(() => readHeatFile(asked, cell ?? 0.1))) setText((now) => (now === asked ? "" : now));
	};
	const box = (label: string, field: "inside_c" | "outside_c") => (
		<UnitBox
			of="temperature"
			label={label}
			value={now[field] ?? null}
			least={-50}
			most={60}
			onChange={(v) => v != null && setNow((n) => ({ ...n, [field]: v }))}
		/>
	);
	return (
		<>
			{page.account.heat.map((h) => (
				<Stack key={h.id} $gap={4} role="group" aria-label={`Picture ${h.id}`}>
					<p>
						<b>
							{h.id} {h.name}
						</b>{" "}
						{h.against.length > 0 && <>Not usable for moisture. {h.against.join(" ")}</>}
						{h.against.length === 0 && h.patches.length === 0 && "Nothing differs from the wall around it."}
					</p>
					<ul>
						{h.patches.map((p) => (
							<li key={`${p.at}`}>{p.sentence}</li>
						))}
					</ul>
					{h.heat?.doubts?.map((d) => (
						<Soft key={d}>{d}</Soft>
					))}
					<Row>
						<QuietButton onPress={() => list.remove(h.id)}>Take {h.id} out</QuietButton>
					</Row>
				</Stack>
			))}
			<Soft>
				Patches are drawn on the map of their surface under Readings: dashed until the meter was in them and beside them.
			</Soft>
			<Stack $gap={8} role="group" aria-label="Take a picture of heat">
				<Columns>
					<OnSurface
						label="Its lower left corner is on"
						place={at}
						rooms={rooms}
						onChange={setAt}
						onBlur={() => {}}
						wrong={() => undefined}
					/>
					{box("Inside", "inside_c")}
					{box("Outside", "outside_c")}
					<NumberBox
						label="Sun was on the outside, hours ago"
						value={now.sun_hours_ago ?? null}
						least={0}
						most={48}
						onChange={(sun_hours_ago) => setNow((n) => ({ ...n, sun_hours_ago }))}
					/>
				</Columns>
				<Row $gap={12}>
					<Tick value={now.wet ?? false} onChange={(wet) => setNow((n) => ({ ...n, wet }))}>
						The outside is wet
					</Tick>
					<Tick value={now.windy ?? false} onChange={(windy) => setNow((n) => ({ ...n, windy }))}>
						Wind stands on it
					</Tick>
				</Row>
				<Row $gap={8}>
					<PlainButton onPress={() => void attempt(() => takeHeat(view.job.id, asked(at)))}>
						Take a picture (simulated camera)
					</PlainButton>
				</Row>
				<Folded head="From the camera's picture">
					<Soft>A PNG of 16 bits of grey, not the coloured one: colours are no temperatures.</Soft>
					<Columns>
						<UnitBox of="metres" label="Side of a pixel on the wall" value={pixel} least={0.0005} most={1} onChange={setPixel} />
						<NumberBox label="Temperature of grey 0, °C" value={zero} least={-300} most={100} onChange={setZero} />
						<NumberBox label="Degrees from one grey to the next" value={step} least={0.0001} most={10} onChange={setStep} />
					</Columns>
					<input
						type="file"
						accept="image/png"
						aria-label="Picture of heat"
						disabled={pixel == null || zero == null || step == null}
						onChange={(e) => {
							const file = e.target.files?.[0];
							if (file && pixel != null && zero != null && step != null)
								void attempt(() => readHeatPicture(file, { cell_m: pixel, zero_c: zero, step_c: step }));
						}}
					/>
				</Folded>
				<Folded head="From the camera's table">
					<UnitBox of="metres" label="Side of a cell" value={cell} least={0.001} most={10} onChange={setCell} />
					<Field label="Temperatures, row by row from the top" rows={4} value={text} onChange={setText} />
					<PlainButton isDisabled={text.trim() === "" || cell == null} onPress={() => void readTable()}>
						Read the table
					</PlainButton>
				</Folded>
			</Stack>
		</>
	);
}
