import { createBrowserRouter, Navigate, type RouteObject } from "react-router";
import { BenchTrouble, Trouble } from "./Trouble";

/** While the first bench is fetched: the ground, nothing that jumps. */
const Empty = () => null;

// Each bench is fetched when it is first opened.
const routes: RouteObject[] = [
	{
		path: "/",
		HydrateFallback: Empty,
		lazy: async () => ({ Component: (await import("../benches/jobs/Jobs")).Jobs }),
		ErrorBoundary: Trouble,
	},
	{
		path: "/interface",
		HydrateFallback: Empty,
		lazy: async () => ({ Component: (await import("../benches/interface/Interface")).Interface }),
		ErrorBoundary: Trouble,
	},
	{
		path: "/jobs/:job",
		HydrateFallback: Empty,
		lazy: async () => ({ Component: (await import("./Shell")).Shell }),
		ErrorBoundary: Trouble,
		children: [
			{ index: true, element: <Navigate to="round" replace /> },
			{
				path: "brief",
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: (await import("../benches/brief/Brief")).Brief }),
			},
			{
				path: "round",
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: (await import("../benches/round/Round")).Round }),
			},
			{
				path: "roof",
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: (await import("../benches/roof/Roof")).Roof }),
			},
			{
				path: "rainwater",
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: (await import("../benches/rainwater/Rainwater")).Rainwater }),
			},
			{
				path: "ground",
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: (await import("../benches/ground/Ground")).Ground }),
			},
			{
				path: "walk",
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: (await import("../benches/round/WalkReview")).WalkReview }),
			},
			{
				path: "practice",
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: (await import("../benches/practice/Practice")).Practice }),
			},
			{
				path: "report",
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: (await import("../benches/report/Report")).Report }),
			},
		],
	},
	{ path: "*", element: <Navigate to="/" replace /> },
];

export const router = createBrowserRouter(routes);
