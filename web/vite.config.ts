import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
	plugins: [react()],
	build: { target: "es2022", assetsInlineLimit: 0, modulePreload: { polyfill: false } },
	test: {
		environment: "jsdom",
		include: ["src/**/*.test.{ts,tsx}"],
		setupFiles: ["src/testing.setup.ts"],
		// Loading the parts of the page again for each of forty files took longer than the tests of most of them.
		isolate: false,
		// Styles go into their sheet rule by rule: as text, jsdom reads the whole sheet again for each.
		env: { SC_DISABLE_SPEEDY: "false" },
		maxWorkers: "100%",
		// What a test throws away is swept together less often.
		execArgv: ["--max-semi-space-size=64"],
		restoreMocks: true,
		testTimeout: 60_000,
	},
	server: { proxy: { "/api": "http://127.0.0.1:4310" } },
});
