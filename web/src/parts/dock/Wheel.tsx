import styled from "styled-components";
import type { JobView } from "../../api/queries";
import { useWhere } from "../../app/where";
import { Drawing } from "../../design/Drawing";

const Round = styled.div`width: 100%; max-width: 360px; margin: 0 auto;`;

/** The building from above, as the server draws it for page and print: a cell that is chosen sets the place everywhere. */
export function Wheel({ view }: { view: JobView }) {
	const where = useWhere();
	return (
		<Round>
			<Drawing
				svg={view.wheel_drawing}
				chosen={{ kind: "cell", id: where.cell }}
				onChoose={(c) => where.setCell(c.id)}
				onArrow={(key) => {
					if (key === "ArrowRight") where.walk(1);
					if (key === "ArrowLeft") where.walk(-1);
					if (key === "ArrowDown") where.climb(-1);
					if (key === "ArrowUp") where.climb(1);
				}}
			/>
		</Round>
	);
}
