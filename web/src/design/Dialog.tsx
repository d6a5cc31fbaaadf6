// Something that is done or looked at before going on.
import type { ReactNode } from "react";
import { Dialog as AriaDialog, Heading, Modal, ModalOverlay } from "react-aria-components";
import styled from "styled-components";
import { PlainButton } from "./buttons";
import { at, corner, line, tone } from "./tokens";

const Veil = styled(
	ModalOverlay,
)`position: fixed; inset: 0; background: rgb(18 24 28 / 0.5); display: grid; place-items: center; padding: 12px; z-index: 20;`;

const Sheet = styled(Modal)<{ $wide: boolean }>`
	background: ${tone.plaster};
	color: ${tone.ink};
	border: ${line};
	border-radius: ${corner};
	box-shadow: 0 10px 40px rgb(0 0 0 / 0.3);
	width: min(${(p) => (p.$wide ? "980px" : "600px")}, 100%);
	max-height: calc(100dvh - 24px);
	overflow: auto;
`;

const Inside = styled(AriaDialog)`padding: 20px 22px; outline: none; ${at.phone} { padding: 14px; }`;

const Top = styled.div`display: flex; justify-content: space-between; gap: 12px; align-items: start; margin-bottom: 12px;`;

export interface SheetProps {
	title: string;
	isOpen: boolean;
	onClose: () => void;
	children: ReactNode;
	wide?: boolean;
	/** What the button that puts it away says. */
	away?: string;
}

/** Something that is done or looked at before going on. */
export function Dialog({ title, isOpen, onClose, children, wide = false, away = "Close" }: SheetProps) {
	return (
		<Veil isOpen={isOpen} onOpenChange={(o) => !o && onClose()} isDismissable>
			<Sheet $wide={wide}>
				<Inside>
					<Top>
						<Heading slot="title" level={2}>
							{title}
						</Heading>
						<PlainButton onPress={onClose}>{away}</PlainButton>
					</Top>
					{children}
				</Inside>
			</Sheet>
		</Veil>
	);
}
