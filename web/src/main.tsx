import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-600.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-400.css";
import "@fontsource/atkinson-hyperlegible-mono/latin-400.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router";
import { queryClient } from "./api/queries";
import { router } from "./app/router";
import "./app/theme";
import { Notices } from "./design/Notices";
import { GlobalStyle } from "./design/tokens";

const root = document.getElementById("root");
if (root) {
	createRoot(root).render(
		<StrictMode>
			<GlobalStyle />
			<QueryClientProvider client={queryClient}>
				<RouterProvider router={router} />
			</QueryClientProvider>
			<Notices />
		</StrictMode>,
	);
}
