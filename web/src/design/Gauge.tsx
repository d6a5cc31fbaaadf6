import { tone } from "./tokens";

/** The rain gauge: fuller is sooner. Always stands beside its words, so it says nothing by itself. */
export function Gauge({ ticks, hazard = false }: { ticks: number; hazard?: boolean }) {
	const c = hazard ? tone.brick : tone.ink;
	return (
		<svg width="16" height="40" viewBox="0 0 16 40" aria-hidden="true">
			<path d="M3 2V33a5 5 0 0 0 10 0V2" fill="none" stroke={c} strokeWidth="1.5" />
			{[0, 1, 2, 3, 4].slice(0, ticks).map((i) => (
				<rect key={i} x="5" y={30 - i * 6} width="6" height="4.4" fill={c} />
			))}
		</svg>
	);
}
