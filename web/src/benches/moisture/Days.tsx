import styled from "styled-components";
import { Drawing } from "../../design/Drawing";
import { Soft, Stack } from "../../design/layout";
import { hairline } from "../../design/tokens";
import type { PartProps } from "./Moisture";

const One = styled(Stack)`border-bottom: ${hairline}; padding-bottom: 10px;`;

/** Places that were read on several days: does each dry, and when will it be dry? */
export function Days({ page }: PartProps) {
	if (page.account.drying.length === 0)
		return (
			<p>
				Nothing to compare yet. Read the same places again on another day, and three that are surely dry on the same material: a
				wet place that dries was a single rain; one that does not is still fed.
			</p>
		);
	return (
		<>
			{page.account.drying.map((d, k) => (
				<One key={d.name} role="group" aria-label={d.name}>
					<p>
						<b>{d.name}</b> {d.sentence}
					</p>
					<Drawing svg={page.drying[k] ?? ""} most="200px" />
					<Soft>
						From {d.from}; dry places read {d.dry_level}. The dashed line is the fit.
					</Soft>
				</One>
			))}
		</>
	);
}
