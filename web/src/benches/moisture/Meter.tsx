import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { PlainButton } from "../../design/buttons";
import { Row, Soft } from "../../design/layout";
import { tone } from "../../design/tokens";
import type { Place } from "../../parts/OnSurface";

const Live = styled.output`font-size: 24px; color: ${tone.ink}; &[data-steady="false"] { color: ${tone.ochre}; }`;

/** A place as the instruments are asked for it. */
export const asked = (at: Place) => {
	const q = new URLSearchParams({
		room: at.room ?? "",
		part: at.part ?? "wall",
		wall: String(at.wall ?? 0),
		along: at.along ?? "",
		up: at.up ?? "",
	});
	if (at.face) q.set("face", at.face);
	return q;
};

interface MeterProps {
	job: string;
	at: Place;
	relative: boolean;
	onTake: (value: number) => void;
}

/** The simulated moisture meter, put on a place and read live. */
export function Meter({ job, at, relative, onTake }: MeterProps) {
	const [live, setLive] = useState<Schemas["MeterReading"] | null>(null);
	const source = useRef<EventSource | null>(null);
	const stop = () => {
		source.current?.close();
		source.current = null;
	};
	const where = asked(at).toString();
	// biome-ignore lint/correctness/useExhaustiveDependencies: the meter is lifted when another place is chosen
	useEffect(() => {
		setLive(null);
		return stop;
	}, [where, relative]);
	const listen = () => {
		stop();
		const events = new EventSource(`/api/jobs/${job}/moisture/meter?${where}&scale=${relative ? "relative" : "percent"}`);
		source.current = events;
		events.onmessage = (e) => {
			const r = JSON.parse(e.data) as Schemas["MeterReading"];
			setLive(r);
			if (r.state === "lost") stop();
		};
		events.onerror = () => {
			stop();
			setLive(
				(r) => r ?? { seconds: 0, value: null, state: "lost", words: "Nothing is heard. Is the place typed?", simulated: true },
			);
		};
	};
	return (
		<Row $gap={8}>
			<b>Meter (simulated)</b>
			<PlainButton onPress={listen}>Put it on here</PlainButton>
			{live && (
				<>
					<Live data-steady={live.state === "steady"}>{live.value == null ? "–" : live.value.toFixed(relative ? 0 : 1)}</Live>
					<Soft role="status">{live.words}</Soft>
					{live.state === "steady" && live.value != null && (
						<PlainButton
							onPress={() => {
								stop();
								if (live.value != null) onTake(Number(live.value.toFixed(1)));
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
