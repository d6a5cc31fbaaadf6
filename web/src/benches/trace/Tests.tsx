import { type KeyboardEvent, useEffect, useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { MainButton, PlainButton, QuietButton } from "../../design/buttons";
import { Tick } from "../../design/choices";
import { Figures, Folded, Row, Soft, Stack } from "../../design/layout";
import { line } from "../../design/tokens";
import { useStay } from "../../parts/draft/useHalf";
import { nextId, rowsOf } from "../../parts/rows";
import type { PartProps } from "./Trace";

type Test = Schemas["TestKept"];
const KINDS: { [k in Test["kind"]]: string } = {
	hose: "Hose on",
	dye: "Dye at",
	pressure: "Pressure on",
	meter: "Meter at",
	"cut-out": "Open up at",
};
const Sheet = styled(Stack)`border: ${line}; padding: 12px;`;
/** A name within a sentence. */
const within = (name: string) => name.replace(/^[A-Z](?=[a-z])/, (x) => x.toLowerCase());
const percent = (p: number) => `${(p * 100).toFixed(0)} %`;

/** The test that tells most for its time; run with a clock, its result by one key. */
export function Tests(props: PartProps) {
	const { view, editing, spot, traced, called } = props;
	const list = rowsOf<Schemas["Trace"], "tests", Test>(editing, "tests");
	const mine = list.rows.filter((t) => t.spot === spot.id);
	// Water runs on while another bench is looked at, and so does its clock.
	const [clock, setClock] = useStay<Running | null>(`${view.job.id} test at ${spot.id}`, null, (clock) => clock !== null);
	const running = clock?.test ?? null;
	const run = (test: Schemas["NextTest"] | null) =>
		setClock(test && { test, since: Date.now(), cleared: test.clear_first.length === 0 });
	const next = (traced?.next ?? []).filter((n) => n.gain_bits >= 0.02).slice(0, 4);
	const done = (result: Test["result"], minutes: number, cleared_below: boolean) => {
		if (!running) return;
		list.add({
			id: nextId("X", list.rows),
			kind: running.test,
			candidate: running.candidate,
			minutes,
			spot: spot.id,
			result,
			cleared_below,
		});
		run(null);
	};
	const after = (o: Schemas["TestOutcome"]) =>
		`${o.leads.length > 0 ? o.leads.map(called).map(within).join(" with ") : "something not listed"} ${percent(o.p)}`;
	return (
		<Stack $gap={8} role="group" aria-label="Tests">
			<h2>What to try next</h2>
			{clock ? (
				<Clock
					{...clock}
					called={called}
					onCleared={(cleared) => setClock({ ...clock, cleared })}
					onDone={done}
					onGiveUp={() => run(null)}
				/>
			) : (
				<ol aria-label="Next tests">
					{next.map((n) => (
						<li key={n.candidate}>
							<Row $gap={8}>
								<b>
									{KINDS[n.test]} {within(called(n.candidate))}
								</b>
								<Figures>{n.minutes.toFixed(0)} min</Figures>
								<Soft>
									tells {n.gain_bits.toFixed(2)} bits; wet ({percent(n.if_wet.chance)}): {after(n.if_wet)}; dry: {after(n.if_dry)}
									{n.ladder && "; takes a ladder"}
								</Soft>
								<PlainButton onPress={() => run(n)}>Start</PlainButton>
							</Row>
							{n.clear_first.length > 0 && (
								<Soft>
									First test dry or cover what lies below it: {n.clear_first.map(called).map(within).join(", ")}. Otherwise a wet
									result counts for less.
								</Soft>
							)}
						</li>
					))}
				</ol>
			)}
			{next.length === 0 && !running && <Soft>No test would tell anything that is not known.</Soft>}
			{mine.length > 0 && (
				<Folded head={`${mine.length} ${mine.length === 1 ? "test" : "tests"} made`}>
					<ul>
						{mine.map((t) => (
							<li key={t.id}>
								{KINDS[t.kind]} {within(called(t.candidate))}, {t.minutes} min: <b>{t.result}</b>
								{t.kind === "hose" && !t.cleared_below && <Soft> what lies below was not cleared</Soft>}
								<QuietButton onPress={() => list.remove(t.id)}>Take out</QuietButton>
							</li>
						))}
					</ul>
				</Folded>
			)}
		</Stack>
	);
}

/** A test that is being made, and since when, milliseconds. */
interface Running {
	test: Schemas["NextTest"];
	since: number;
	/** What lies below was tested dry or covered first. */
	cleared: boolean;
}

interface ClockProps extends Running {
	called: (id: string) => string;
	onCleared: (cleared: boolean) => void;
	onDone: (result: Test["result"], minutes: number, cleared: boolean) => void;
	onGiveUp: () => void;
}

function Clock({ test, since, cleared, called, onCleared, onDone, onGiveUp }: ClockProps) {
	const [now, tick] = useState(() => Date.now());
	useEffect(() => {
		const t = setInterval(() => tick(Date.now()), 1000);
		return () => clearInterval(t);
	}, []);
	const seconds = Math.floor((now - since) / 1000);
	const minutes = Math.max(1, Math.round(seconds / 60));
	const ran = test.runs_minutes > 0 ? Math.max(minutes, 1) : test.minutes;
	const keys = (e: KeyboardEvent) => {
		if (e.ctrlKey || e.metaKey || e.altKey) return;
		if (e.key.toLowerCase() === "w") onDone("wet", ran, cleared);
		else if (e.key.toLowerCase() === "d") onDone("dry", test.runs_minutes > 0 ? ran : test.minutes, cleared);
		else return;
		e.preventDefault();
		e.stopPropagation();
	};
	return (
		<Sheet role="group" aria-label={`Test on ${called(test.candidate)}`} onKeyDown={keys}>
			<p>
				<b>
					{KINDS[test.test]} {within(called(test.candidate))}
				</b>{" "}
				<Figures role="timer">
					{Math.floor(seconds / 60)}:{String(seconds % 60).padStart(2, "0")}
				</Figures>
				{test.runs_minutes > 0 && (
					<Soft> of {test.runs_minutes} min; low to high, and never with the circuit near the spot on</Soft>
				)}
			</p>
			<Tick value={cleared} onChange={onCleared}>
				What lies below was tested dry or covered first
			</Tick>
			<Row $gap={8}>
				<MainButton autoFocus onPress={() => onDone("wet", ran, cleared)}>
					The spot is wet (W)
				</MainButton>
				<PlainButton onPress={() => onDone("dry", ran, cleared)}>It stayed dry (D)</PlainButton>
				{test.runs_minutes > 0 && (
					<QuietButton onPress={() => onDone("dry", test.runs_minutes, cleared)}>
						It ran {test.runs_minutes} min before and stayed dry
					</QuietButton>
				)}
				<QuietButton onPress={onGiveUp}>Break off</QuietButton>
			</Row>
		</Sheet>
	);
}
