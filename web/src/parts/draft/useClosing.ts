import { useEffect, useState } from "react";
import type { Draft } from "./useDraft";

/** Keeps what a dialog edits, and puts the dialog away once it is kept: what could not be kept stays in sight. */
export function useClosing<T>({ standing, keep }: Draft<T>, onClose: () => void): () => void {
	const [closing, setClosing] = useState(false);
	useEffect(() => {
		if (!closing) return;
		if (standing === "kept") onClose();
		if (standing === "refused" || standing === "clash") setClosing(false);
	}, [closing, standing, onClose]);
	return () => {
		setClosing(true);
		keep();
	};
}
