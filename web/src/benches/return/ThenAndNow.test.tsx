import { fireEvent, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { show } from "../../testing";
import { ThenAndNow } from "./ThenAndNow";

const nothing = () => undefined;

it("the slider uncovers the picture of now", async () => {
	show(<ThenAndNow old="/then" now="/now" camera={false} onCamera={nothing} onTaken={nothing} />);
	const slider = await screen.findByRole("slider", { name: "Then to the left, now to the right" });
	fireEvent.change(slider, { target: { value: "20" } });
	expect(screen.getByAltText("Then").style.clipPath).toBe("inset(0 80% 0 0)");
});

it("a picture of then that is gone is said, and nothing is compared with it", async () => {
	show(<ThenAndNow old="/then" now="/now" camera={false} onCamera={nothing} onTaken={nothing} />);
	fireEvent.error(await screen.findByAltText("Then"));
	expect(screen.getByText("The picture of the earlier visit is not here any more.")).toBeTruthy();
	expect(screen.queryByRole("slider")).toBeNull();
});

it("without a camera another way is named and the camera is put away", async () => {
	const put = vi.fn();
	show(<ThenAndNow old="/then" now={null} camera onCamera={put} onTaken={nothing} />);
	expect((await screen.findByRole("alert")).textContent).toContain("choose it below");
	expect(put).toHaveBeenCalledWith(false);
});
