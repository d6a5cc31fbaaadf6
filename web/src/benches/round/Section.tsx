import { tone } from "../../design/tokens";

// A section through a wall, cut at each height: what the water meets there. Drawn plainly, 64 by 56.
const drawings: Record<string, { ink: string; water?: string }> = {
	roof: { ink: "M2 14L62 44M2 22L62 52M18 30v-6M34 38v-6M50 46v-6", water: "M8 8L40 24m-6 -7l6 7l-9 1" },
	edge: { ink: "M2 6L34 22V40M2 14L30 28M34 26h20v10q0 8 -10 8t-10 -8M14 56V22", water: "M37 32h14" },
	"upper-wall": { ink: "M20 0V56M44 0V56M20 8h24M20 20h24M20 32h24M20 44h24" },
	openings: { ink: "M20 0V12H44V0M20 56V46H44V56M26 12V46M38 12V46M14 46H50M18 12h30" },
	base: { ink: "M20 0V30M44 0V30M14 30H50V56M14 30V56M20 10h24M20 20h24M50 44H62" },
	ground: { ink: "M2 0V20L62 44M8 30l4 6M24 36l4 6M40 43l4 6", water: "M12 14L46 28m-7 -6l7 6l-9 2" },
	inside: { ink: "M6 30L32 8L58 30M12 26V52H52V26M26 52V38H38V52", water: "M32 18v6" },
};

export function Section({ zone }: { zone: string }) {
	const d = drawings[zone];
	return (
		<svg width="64" height="56" viewBox="0 0 64 56" aria-hidden="true">
			<path d={d?.ink} fill="none" stroke={tone.ink} strokeWidth="1.5" />
			{d?.water && <path d={d.water} fill="none" stroke={tone.water} strokeWidth="2" />}
		</svg>
	);
}
