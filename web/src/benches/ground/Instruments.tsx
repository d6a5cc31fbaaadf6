import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { readStick, useZeroAltimeter } from "../../api/queries";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Row, Soft } from "../../design/layout";
import { say } from "../../design/Notices";
import { tone } from "../../design/tokens";
import { UnitBox } from "../../parts/UnitBox";
import { useShown } from "../../parts/units";
import type { GroundPage } from "./kinds";
import type { Spot } from "./spots";

interface AltimeterProps {
	job: string;
	page: GroundPage;
	spot: Spot;
	onTake: (mm: number) => void;
}

const Live = styled.output`font-size: 24px; color: ${tone.ink}; &[data-steady="false"] { color: ${tone.ochre}; }`;

/** The simulated hose: zeroed on one reading, its cell laid on another, read live. */
export function Altimeter({ job, page, spot, onTake }: AltimeterProps) {
	const u = useShown();
	const zero = useZeroAltimeter(job);
	const [live, setLive] = useState<Schemas["AltimeterReading"] | null>(null);
	const source = useRef<EventSource | null>(null);
	const stop = () => {
		source.current?.close();
		source.current = null;
	};
	// biome-ignore lint/correctness/useExhaustiveDependencies: the cell is lifted when another reading is chosen
	useEffect(() => {
		setLive(null);
		return stop;
	}, [spot.id]);
	const at = page.account.readings.find((r) => r.id === spot.id)?.at;
	const listen = () => {
		stop();
		if (!at) return say("Give the reading a place first.", { wrong: true });
		const events = new EventSource(`/api/jobs/${job}/altimeter?along=${at[0]}&out=${at[1]}`);
		source.current = events;
		events.onmessage = (e) => {
			const r = JSON.parse(e.data) as Schemas["AltimeterReading"];
			setLive(r);
			if (r.state === "lost") stop();
		};
		events.onerror = () => {
			stop();
			setLive(
				(r) =>
					r ?? { seconds: 0, mm: null, state: "lost", words: "Nothing is heard. Zero it on a reading first.", simulated: true },
			);
		};
	};
	return (
		<Row $gap={8}>
			<b>Altimeter (simulated)</b>
			<QuietButton
				onPress={() =>
					zero.mutate(spot.id ?? "", { onSuccess: (s) => say(s.words), onError: (e) => say(e.message, { wrong: true }) })
				}
			>
				Zero on {spot.id}
			</QuietButton>
			<PlainButton onPress={listen}>Lay the cell here and read</PlainButton>
			{live && (
				<>
					<Live data-steady={live.state === "steady"}>{live.mm == null ? "–" : u.fine(live.mm / 1000)}</Live>
					<Soft role="status">{live.words}</Soft>
					{live.state === "steady" && live.mm != null && (
						<PlainButton
							onPress={() => {
								stop();
								if (live.mm != null) onTake(live.mm);
							}}
						>
							Take it
						</PlainButton>
					)}
				</>
			)}
		</Row>
	);
}

/** The simulated slope stick, laid outward from a reading: its fall gives the next one. */
export function Stick({ job, spot, onTake }: { job: string; spot: Spot; onTake: (end: Schemas["StickShows"]) => void }) {
	const u = useShown();
	const [length, setLength] = useState<number | null>(u.units.startsWith("us") ? 1.2192 : 1.2);
	const [shows, setShows] = useState<Schemas["StickShows"] | null>(null);
	const read = async () => {
		if (length === null) return;
		try {
			setShows(await readStick(job, spot.id ?? "", length));
		} catch (e) {
			say((e as Error).message, { wrong: true });
		}
	};
	return (
		<Row $gap={8} style={{ alignItems: "end" }}>
			<b style={{ alignSelf: "center" }}>Slope stick (simulated)</b>
			<UnitBox
				of="along"
				label="Its length"
				value={length}
				least={0.3}
				most={3}
				onChange={(v) => {
					setLength(v);
					setShows(null);
				}}
			/>
			<PlainButton isDisabled={length === null} onPress={() => void read()}>
				Lay it outward and read
			</PlainButton>
			{shows && (
				<>
					<Soft role="status">{shows.words}</Soft>
					<PlainButton onPress={() => onTake(shows)}>Add the reading it gives</PlainButton>
				</>
			)}
		</Row>
	);
}
