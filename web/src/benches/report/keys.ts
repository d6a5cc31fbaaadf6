import { sha256 as sum } from "@noble/hashes/sha2.js";
import { bytesToHex, utf8ToBytes } from "@noble/hashes/utils.js";

/** A key nobody guesses: 32 bytes from the browser, written in 43 signs. */
export function newLinkKey(bytes = crypto.getRandomValues(new Uint8Array(32))): string {
	const signs = btoa(String.fromCharCode(...bytes));
	return signs.replaceAll("+", "-").replaceAll("/", "_").replaceAll("=", "");
}

/**
 * SHA-256 in hexadecimal. The browser's own is missing where a page comes over plain HTTP in a local network, and the key must not be
 * sent instead.
 */
export const sha256 = (text: string) => bytesToHex(sum(utf8ToBytes(text)));
