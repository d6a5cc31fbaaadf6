import { createBrowserRouter, Navigate, type RouteObject } from "react-router";
import { Trouble } from "./Trouble";

// Each bench is fetched when it is first opened.
const routes: RouteObject[] = [
	{ path: "/", lazy: async () => ({ Component: (await import("../benches/jobs/Jobs")).Jobs }), ErrorBoundary: Trouble },
	{
		path: "/interface",
		lazy: async () => ({ Component: (await import("../benches/interface/Interface")).Interface }),
		ErrorBoundary: Trouble,
	},
	{
		path: "/jobs/:job",
		lazy: async () => ({ Component: (await import("./Shell")).Shell }),
		ErrorBoundary: Trouble,
		children: [
			{ index: true, element: <Navigate to="round" replace /> },
			{ path: "brief", lazy: async () => ({ Component: (await import("../benches/brief/Brief")).Brief }) },
			{ path: "round", lazy: async () => ({ Component: (await import("../benches/round/Round")).Round }) },
			{ path: "report", lazy: async () => ({ Component: (await import("../benches/report/Report")).Report }) },
		],
	},
	{ path: "*", element: <Navigate to="/" replace /> },
];

export const router = createBrowserRouter(routes);
