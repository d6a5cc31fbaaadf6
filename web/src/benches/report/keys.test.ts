import { createHash } from "node:crypto";
import { describe, expect, it } from "vitest";
import { newLinkKey, sha256 } from "./keys";

describe("the key of a client's page", () => {
	it("is 43 signs that an address takes, and another each time", () => {
		const keys = new Set(Array.from({ length: 50 }, () => newLinkKey()));
		expect(keys.size).toBe(50);
		for (const k of keys) expect(k).toMatch(/^[A-Za-z0-9_-]{43}$/);
		expect(newLinkKey(new Uint8Array(32))).toBe("A".repeat(43));
	});
	it("is known by the same sum the server makes", () => {
		const key = newLinkKey();
		expect(sha256(key)).toBe(createHash("sha256").update(key).digest("hex"));
	});
});
