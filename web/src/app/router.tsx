import { createBrowserRouter, Navigate, type RouteObject } from "react-router";
import { benches } from "./benches";
import { BenchTrouble, Trouble } from "./Trouble";

/** While the first bench is fetched: the ground, nothing that jumps. */
const Empty = () => null;

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
		path: "/buildings/:building",
		HydrateFallback: Empty,
		lazy: async () => ({ Component: (await import("../benches/building/BuildingPage")).BuildingPage }),
		ErrorBoundary: Trouble,
	},
	{
		path: "/jobs/:job/walk-back",
		HydrateFallback: Empty,
		lazy: async () => ({ Component: (await import("../benches/walkback/WalkBack")).WalkBack }),
		ErrorBoundary: Trouble,
	},
	{
		path: "/jobs/:job",
		HydrateFallback: Empty,
		lazy: async () => ({ Component: (await import("./Shell")).Shell }),
		ErrorBoundary: Trouble,
		children: [
			{ index: true, element: <Navigate to="round" replace /> },
			...Object.entries(benches).map(([path, bench]) => ({
				path,
				ErrorBoundary: BenchTrouble,
				lazy: async () => ({ Component: await bench() }),
			})),
		],
	},
	{ path: "*", element: <Navigate to="/" replace /> },
];

export const router = createBrowserRouter(routes);
