import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import styled from "styled-components";
import { Field } from "../../design/fields";
import { Figures, Soft, Stack } from "../../design/layout";
import { hairline, tone } from "../../design/tokens";
import { Asked } from "../../parts/Asked";

interface Operation {
	description?: string;
	summary?: string;
	tags?: string[];
	parameters?: { name: string; in: string; required?: boolean }[];
	requestBody?: unknown;
	responses?: Record<string, unknown>;
}
interface Description {
	info: { title: string; version: string; description?: string };
	paths: Record<string, Record<string, Operation>>;
	components: { schemas: Record<string, unknown> };
}

const Page = styled.main`max-width: 980px; margin: 0 auto; padding: 24px 22px 60px; display: grid; gap: 18px;`;
const Entry = styled.details`border-bottom: ${hairline}; summary { min-height: 44px; display: flex; gap: 12px; align-items: center; cursor: pointer; flex-wrap: wrap; } b { min-width: 64px; } pre { overflow: auto; background: ${tone.plasterLow}; padding: 12px; font-size: 13px; max-height: 420px; }`;

const shown = (value: unknown) => JSON.stringify(value, null, 2);

/** The server's own description of its interface, to look through. */
export function Interface() {
	const described = useQuery({
		queryKey: ["openapi"],
		queryFn: async () => {
			const answer = await fetch("/api/openapi.json");
			if (!answer.ok) throw new Error("The server did not give its description. Ask again, or start it again.");
			return (await answer.json()) as Description;
		},
	});
	return (
		<Page>
			<a href="/">Jobs</a>
			<h1>The interface for programs</h1>
			<Asked question={described}>{(data) => <Described data={data} />}</Asked>
		</Page>
	);
}

function Described({ data }: { data: Description }) {
	const [filter, setFilter] = useState("");
	const rows = Object.entries(data.paths)
		.flatMap(([path, methods]) => Object.entries(methods).map(([method, op]) => ({ path, method, op })))
		.filter((r) => `${r.method} ${r.path} ${r.op.summary}`.toLowerCase().includes(filter.toLowerCase()));
	return (
		<>
			<div>
				<p>{data.info.description}</p>
				<Soft>
					Machine-readable: <a href="/api/openapi.json">/api/openapi.json</a>, and the form of a bundle:{" "}
					<a href="/api/bundle.schema.json">/api/bundle.schema.json</a>
				</Soft>
			</div>
			<Field label="Find" value={filter} onChange={setFilter} />
			<Stack $gap={0}>
				{rows.map(({ path, method, op }) => (
					<Entry key={method + path}>
						<summary>
							<b>{method.toUpperCase()}</b>
							<Figures>/api{path}</Figures>
							<Soft>{op.summary ?? op.description}</Soft>
						</summary>
						<pre>{shown({ parameters: op.parameters, requestBody: op.requestBody, responses: op.responses })}</pre>
					</Entry>
				))}
			</Stack>
			<h2>Schemas</h2>
			<Stack $gap={0}>
				{Object.entries(data.components.schemas).map(([name, schema]) => (
					<Entry key={name}>
						<summary>{name}</summary>
						<pre>{shown(schema)}</pre>
					</Entry>
				))}
			</Stack>
		</>
	);
}
