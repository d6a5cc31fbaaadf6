// What a browser has and jsdom lacks: for tests of pages alone.
import { cleanup } from "@testing-library/react";
import { afterEach } from "vitest";

globalThis.CSS ??= {} as typeof CSS;
// Enough for the keys that React Aria looks for.
CSS.escape ??= (text) => text.replace(/[^\w-]/g, (c) => `\\${c}`);

afterEach(cleanup);
