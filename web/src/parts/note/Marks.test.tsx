import { fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { expect, it } from "vitest";
import type { PictureMark } from "../../api/queries";
import { person, serve, show } from "../../testing";
import { Marks } from "./Marks";

const ring: PictureMark = { shape: "ring", from: [0.2, 0.2], to: [0.4, 0.4], text: "" };
const size = { left: 0, top: 0, width: 200, height: 100 } as DOMRect;

function Held({ marks, told }: { marks: PictureMark[]; told: (now: PictureMark[]) => void }) {
	const [now, set] = useState(marks);
	told(now);
	return <Marks src="x.jpg" alt="The sill" width={640} height={320} marks={now} onChange={set} />;
}

/** A picture whose marks are kept as they are drawn; `now` is what is kept. */
function picture(marks: PictureMark[], drawn = (m: PictureMark) => `<text>${m.shape} drawn</text>`) {
	const kept: { now: PictureMark[] } = { now: marks };
	const sent = serve({
		"POST /marks": (b) => (b as { marks: PictureMark[] }).marks.map(drawn),
	});
	show(
		<Held
			marks={marks}
			told={(now) => {
				kept.now = now;
			}}
		/>,
	);
	return { kept, sent };
}
const pad = () => screen.getByRole("group", { name: "Marks on the picture" });

it("marks are drawn by the server that prints them, with the picture's own size", async () => {
	const { sent } = picture([ring, { ...ring, shape: "arrow" }]);
	expect(await screen.findByText("ring drawn")).toBeTruthy();
	expect(screen.getByText("arrow drawn")).toBeTruthy();
	expect(sent[0]?.body).toMatchObject({ width: 640, height: 320, marks: [{ shape: "ring" }, { shape: "arrow" }] });
});

it("a picture without marks asks for nothing", async () => {
	const { sent } = picture([]);
	expect(pad()).toBeTruthy();
	await new Promise((r) => setTimeout(r, 30));
	expect(sent).toEqual([]);
});

it("a mark goes where the pointer goes, never off the picture, and takes its words along", async () => {
	const user = person();
	const { kept } = picture([]);
	await user.click(screen.getByRole("button", { name: "Measured line" }));
	await user.type(screen.getByRole("textbox", { name: "Measured length" }), "14 in");
	const at = pad();
	at.getBoundingClientRect = () => size;
	at.setPointerCapture = () => undefined;
	fireEvent.pointerDown(at, { clientX: 20, clientY: 10, pointerId: 1 });
	fireEvent.pointerMove(at, { clientX: 900, clientY: 50, pointerId: 1 });
	// It is drawn before it is let go of.
	expect(await screen.findByText("line drawn")).toBeTruthy();
	expect(kept.now).toEqual([]);
	fireEvent.pointerUp(at, { pointerId: 1 });
	expect(kept.now).toEqual([{ shape: "line", from: [0.1, 0.1], to: [1, 0.5], text: "14 in" }]);
	// The next press draws nothing until a shape is chosen again, and the words are used up.
	fireEvent.pointerDown(at, { clientX: 20, clientY: 10, pointerId: 2 });
	fireEvent.pointerUp(at, { pointerId: 2 });
	expect(kept.now.length).toBe(1);
	expect(screen.getByRole<HTMLInputElement>("textbox", { name: "Words beside the mark" }).value).toBe("");
});

it("words stand where the press began, wherever the pointer is let go", async () => {
	const user = person();
	const { kept } = picture([]);
	await user.type(screen.getByRole("textbox", { name: "Words beside the mark" }), "here");
	await user.click(screen.getByRole("button", { name: "Words" }));
	const at = pad();
	at.getBoundingClientRect = () => size;
	at.setPointerCapture = () => undefined;
	fireEvent.pointerDown(at, { clientX: 100, clientY: 50, pointerId: 1 });
	fireEvent.pointerMove(at, { clientX: 180, clientY: 90, pointerId: 1 });
	fireEvent.pointerUp(at, { pointerId: 1 });
	expect(kept.now).toEqual([{ shape: "text", from: [0.5, 0.5], to: [0.5, 0.5], text: "here" }]);
});

it("without a pointer a mark is put in the middle, moved by arrows, made longer with Shift, taken off with Delete", async () => {
	const user = person();
	const { kept } = picture([ring]);
	await user.click(screen.getByRole("button", { name: "Arrow" }));
	await user.click(screen.getByRole("button", { name: "Put it in the middle" }));
	expect(kept.now[1]).toMatchObject({ shape: "arrow", from: [0.4, 0.4], to: [0.6, 0.6] });
	const arrow = screen.getByLabelText(/^Arrow\. Arrows move it/);
	arrow.focus();
	await user.keyboard("{ArrowRight}{ArrowDown}");
	const close = (p: number[] | undefined, q: number[]) => expect(p?.map((v) => Math.round(v * 1e9) / 1e9)).toEqual(q);
	close(kept.now[1]?.from, [0.41, 0.41]);
	close(kept.now[1]?.to, [0.61, 0.61]);
	await user.keyboard("{Shift>}{ArrowLeft}{/Shift}");
	close(kept.now[1]?.from, [0.41, 0.41]);
	close(kept.now[1]?.to, [0.6, 0.61]);
	expect(kept.now[0]).toEqual(ring);
	await user.keyboard("x");
	expect(kept.now.length).toBe(2);
	await user.keyboard("{Delete}");
	expect(kept.now).toEqual([ring]);
});

it("a mark at the edge is not moved off the picture", async () => {
	const user = person();
	const { kept } = picture([{ ...ring, from: [0, 0.2], to: [1, 0.4] }]);
	screen.getByLabelText(/^Ring\. Arrows move it/).focus();
	await user.keyboard("{ArrowLeft}{ArrowRight}");
	expect(kept.now[0]?.from[0]).toBeCloseTo(0.01, 9);
	expect(kept.now[0]?.to[0]).toBe(1);
});

it("with the server out of reach a mark is seen as where it goes, and is not lost", async () => {
	const user = person();
	const sent = serve({});
	const kept: PictureMark[][] = [];
	show(<Marks src="x.jpg" alt="The sill" width={640} height={320} marks={[ring]} onChange={(m) => kept.push(m)} />);
	await waitFor(() => expect(sent.length).toBeGreaterThan(0));
	expect(
		screen
			.getByLabelText(/^Ring\./)
			.querySelector("path")
			?.getAttribute("d"),
	).toBe("M128 64L256 128");
	await user.click(screen.getByRole("button", { name: "Take the last mark off" }));
	expect(kept).toEqual([[]]);
});
