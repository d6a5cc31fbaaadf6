import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Figures, Row, Soft } from "../../design/layout";
import { Slide } from "../../design/numbers";
import { tone } from "../../design/tokens";
import { useShown } from "../../parts/units";
import type { GroundPage } from "./kinds";

type Step = Schemas["RainStep"];
type Test = Schemas["RainTest"];

export interface StormOf {
	steps: Step[];
	/** The moment that is shown. */
	now: Step | undefined;
	at: number;
	setAt: (at: number) => void;
	/** The whole, when it is through. */
	test: Test | null;
	running: boolean;
	failed: string | null;
	playing: boolean;
	play: (on: boolean) => void;
	run: (years: number | null, lasts?: Schemas["Lasts"]) => void;
	stop: () => void;
}

/** Between two moments while it plays, milliseconds. */
const BEAT = 350;
const still = () => window.matchMedia("(prefers-reduced-motion: reduce)").matches;

/** A storm as the server works it out: each moment is shown as it comes, and can be gone back to. */
export function useStorm(job: string, rev: number | null): StormOf {
	const [steps, setSteps] = useState<Step[]>([]);
	const [at, setAt] = useState(0);
	const [test, setTest] = useState<Test | null>(null);
	const [failed, setFailed] = useState<string | null>(null);
	const [running, setRunning] = useState(false);
	const [playing, setPlaying] = useState(false);
	const source = useRef<EventSource | null>(null);
	const stop = () => {
		source.current?.close();
		source.current = null;
		setRunning(false);
	};
	// Other readings are another ground: the storm that was run over the old one says nothing any more.
	// biome-ignore lint/correctness/useExhaustiveDependencies: the revision says when the ground has changed
	useEffect(() => {
		stop();
		setSteps([]);
		setTest(null);
		setPlaying(false);
		return stop;
	}, [job, rev]);
	useEffect(() => {
		if (!playing) return;
		const beat = setInterval(() => {
			setAt((n) => {
				if (n + 1 < steps.length) return n + 1;
				if (!running) setPlaying(false);
				return n;
			});
		}, BEAT);
		return () => clearInterval(beat);
	}, [playing, steps.length, running]);
	const run = (years: number | null, lasts: Schemas["Lasts"] = "hour") => {
		stop();
		setSteps([]);
		setTest(null);
		setFailed(null);
		setAt(0);
		setRunning(true);
		setPlaying(!still());
		const events = new EventSource(`/api/jobs/${job}/ground/rain-test?lasts=${lasts}${years === null ? "" : `&years=${years}`}`);
		source.current = events;
		events.onmessage = (e) => {
			const message = JSON.parse(e.data) as Schemas["StormMessage"];
			if (message.is === "step") setSteps((all) => [...all, message]);
			else {
				if (message.is === "done") {
					setTest(message);
					// Without motion the height of the storm is shown at once, and the rest by steps.
					if (still())
						setAt(
							Math.max(
								0,
								message.steps.findIndex((s) => s.minute >= 60),
							),
						);
				} else setFailed(message.message);
				stop();
			}
		};
		events.onerror = () => {
			setFailed("The connection broke off. Run the storm again.");
			stop();
		};
	};
	return { steps, now: steps[at], at, setAt, test, running, failed, playing, play: setPlaying, run, stop };
}

const Rain = styled.svg`display: block; width: 100%; height: 46px; margin-top: 10px; rect { fill: ${tone.water}; } rect[data-past="false"] { opacity: 0.35; } line { stroke: ${tone.copper}; stroke-width: 2; }`;

const clock = (minute: number) => (minute < 90 ? `${minute.toFixed(0)} min` : `${(minute / 60).toFixed(1)} h`);

/** The storm with its time line: play, pause, step by step. */
export function Storm({ page, storm }: { page: GroundPage; storm: StormOf }) {
	const u = useShown();
	const { steps, now, at, setAt, test } = storm;
	const most = Math.max(1, ...steps.map((s) => s.rain_mm_h));
	return (
		<section aria-label="Rain test" style={{ margin: "10px 0" }}>
			<Row $gap={8}>
				<h2>Rain test</h2>
				{page.storms.map((y) => (
					<PlainButton key={y} onPress={() => storm.run(y)} isDisabled={storm.running}>
						Storm of once in {y} years
					</PlainButton>
				))}
				{page.storms.length > 0 && (
					<PlainButton onPress={() => storm.run(page.storms[0] ?? null, "day")} isDisabled={storm.running}>
						A day of rain, once in {page.storms[0]} years
					</PlainButton>
				)}
				{page.storms.length === 0 && <Soft>Take a rain from the weather office on the Rainwater bench first.</Soft>}
				{storm.running && <QuietButton onPress={storm.stop}>Stop</QuietButton>}
			</Row>
			{storm.failed && <p role="alert">{storm.failed}</p>}
			{steps.length > 0 && now && (
				<>
					<Rain viewBox={`0 0 ${steps.length} 10`} preserveAspectRatio="none" role="img" aria-label="Rain over the storm">
						{steps.map((s, i) => (
							<rect
								key={s.minute}
								x={i + 0.1}
								width={0.8}
								y={10 - (10 * s.rain_mm_h) / most}
								height={(10 * s.rain_mm_h) / most}
								data-past={i <= at}
							/>
						))}
						<line x1={at + 0.5} x2={at + 0.5} y1={0} y2={10} vectorEffect="non-scaling-stroke" />
					</Rain>
					<Slide
						label="Moment of the storm"
						value={at}
						most={steps.length - 1}
						water
						shown={clock(now.minute)}
						onChange={(n) => {
							storm.play(false);
							setAt(n);
						}}
					/>
					<Row $gap={8}>
						<PlainButton onPress={() => storm.play(!storm.playing)}>{storm.playing ? "Pause" : "Play"}</PlainButton>
						<QuietButton isDisabled={at === 0} onPress={() => setAt(at - 1)}>
							Step back
						</QuietButton>
						<QuietButton isDisabled={at + 1 >= steps.length} onPress={() => setAt(at + 1)}>
							Step on
						</QuietButton>
						<Figures>
							{clock(now.minute)}: {u.rain(now.rain_mm_h)}, {u.flow(now.spilt_l_min)} over brims, {u.flow(now.outlets_l_min)} out
							of downspouts, {u.water(now.litres.stands / 1000)} stand
						</Figures>
					</Row>
					{test && <Soft>{test.storm}</Soft>}
				</>
			)}
		</section>
	);
}
