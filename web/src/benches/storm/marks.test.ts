import { expect, it } from "vitest";
import type { Schemas } from "../../api/client";
import { withMarksOf } from "./marks";

type Hit = Schemas["HitKept"];
const hit = (id: string, x: number, more: Partial<Hit> = {}): Hit => ({
	id,
	x,
	y: 0.5,
	size: "",
	kind: "bruise",
	unsure: false,
	signs: {},
	...more,
});

it("marks of a picture get names of their own beside the hits that were tapped", () => {
	const now = withMarksOf([hit("h1", 0.1)], "p", [hit("", 0.2, { picture: "p" }), hit("", 0.3, { picture: "p" })]);
	expect(now.map((h) => h.id)).toEqual(["h1", "h2", "h3"]);
	expect(now[0]).toEqual(hit("h1", 0.1));
});

it("taken again, a mark that lies where it lay keeps what was said of it, and one that was rubbed out is gone", () => {
	const first = withMarksOf([], "p", [hit("", 0.2, { picture: "p" }), hit("", 0.3, { picture: "p" })]);
	const looked = first.map((h) => (h.id === "h1" ? { ...h, signs: { rim: "sunk" } } : h));
	const again = withMarksOf(looked, "p", [hit("", 0.2, { picture: "p", size: "20 mm" }), hit("", 0.9, { picture: "p" })]);
	expect(again).toEqual([
		hit("h1", 0.2, { picture: "p", signs: { rim: "sunk" }, size: "20 mm" }),
		hit("h3", 0.9, { picture: "p" }),
	]);
});

it("another picture's marks are left alone", () => {
	const both = withMarksOf(withMarksOf([], "p", [hit("", 0.2, { picture: "p" })]), "q", [hit("", 0.4, { picture: "q" })]);
	expect(withMarksOf(both, "p", []).map((h) => h.picture)).toEqual(["q"]);
});
