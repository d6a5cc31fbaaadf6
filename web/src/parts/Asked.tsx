import type { ReactNode } from "react";
import { PlainButton } from "../design/buttons";
import { Row, Stack } from "../design/layout";

interface Question<T> {
	data: T | undefined;
	error: unknown;
	refetch: () => unknown;
}

/**
 * What was asked of the server. Once there is an answer it stays, whatever becomes of later questions: a page in use is never torn
 * down. Only when there never was one is said why, with a way to ask again.
 */
export function Asked<T>({ question, children }: { question: Question<T>; children: (data: T) => ReactNode }) {
	if (question.data !== undefined) return <>{children(question.data)}</>;
	if (!question.error) return <div aria-busy="true" />;
	return (
		<Stack role="alert">
			<p>{(question.error as Partial<Error>).message ?? "There was no answer."}</p>
			<Row>
				<PlainButton onPress={() => question.refetch()}>Ask again</PlainButton>
			</Row>
		</Stack>
	);
}

/** Why something that was asked for by a press was not answered. What stood there before stays. */
export function Unanswered({ question }: { question: { error: unknown; isFetching: boolean } }) {
	if (!question.error || question.isFetching) return null;
	return <p role="alert">{(question.error as Partial<Error>).message ?? "There was no answer."}</p>;
}
