import { useEffect, useRef, useState } from "react";
import { Link } from "react-aria-components";
import { NavLink, Outlet, useNavigate, useParams } from "react-router";
import styled from "styled-components";
import { type JobView, useAttach, useJob, useRedo, useUndo } from "../api/queries";
import { QuietButton } from "../design/buttons";
import { Tick } from "../design/choices";
import { Dialog } from "../design/Dialog";
import { Soft, Stack } from "../design/layout";
import { say } from "../design/Notices";
import { at, hairline, line, size, target, tone } from "../design/tokens";
import { Asked } from "../parts/Asked";
import { Dock } from "../parts/dock/Dock";
import { BENCHES, fetchAll } from "./benches";
import { HistoryDialog } from "./HistoryDialog";
import { KEYS, keysOff, setKeysOff, useKeys } from "./keys";
import { Standing, Unreached } from "./Standing";
import { setTheme, useTheme } from "./theme";
import { useWhere, WhereProvider } from "./where";

const Frame = styled.div`
	display: grid;
	grid-template: auto auto 1fr / 348px minmax(0, 1fr);
	min-height: 100dvh;
	${at.upright} { grid-template: auto auto auto 1fr / minmax(0, 1fr); }
`;
const Strip = styled.header`
	grid-column: 1 / -1;
	display: flex;
	align-items: center;
	gap: 4px 14px;
	min-height: 48px;
	padding: 0 18px;
	border-bottom: ${line};
	background: ${tone.plaster};
	position: sticky;
	top: 0;
	z-index: 10;
	${at.phone} { padding: 0 10px; gap: 4px 6px; }
`;
const Name = styled.p`font-size: ${size.large}; font-weight: 600; white-space: nowrap; overflow: hidden; text-overflow: ellipsis;`;
const Facts = styled.p`flex: 1; color: ${tone.inkSoft}; font-size: ${size.small}; white-space: nowrap; overflow: hidden; text-overflow: ellipsis; min-width: 0;`;
const Wide = styled.span`${at.upright} { display: none; }`;
const Back = styled(
	Link,
)`min-height: ${target}; display: inline-flex; align-items: center; color: ${tone.ink}; font-size: ${size.small};`;
const Side = styled.aside<{ $onPhone: boolean }>`
	background: ${tone.plasterLow};
	border-right: ${hairline};
	${at.upright} { border-right: 0; border-bottom: ${hairline}; }
	${at.phone} { ${(p) => !p.$onPhone && "display: none;"} }
`;
const Bench = styled.main`min-width: 0;`;
const Tabs = styled.nav`
	display: flex;
	gap: 2px;
	padding: 0 18px;
	overflow-x: auto;
	border-bottom: ${hairline};
	a { padding: 11px 13px 7px; min-height: ${target}; color: ${tone.inkSoft}; text-decoration: none; border-bottom: 4px solid transparent; }
	a.active { color: ${tone.ink}; font-weight: 600; border-bottom-color: ${tone.copper}; }
	${at.phone} { padding: 0 6px; }
`;
const Content = styled.div`padding: 16px 22px 40px; ${at.phone} { padding: 14px 12px 120px; }`;

/** What every bench of a job shares: the strip, the dock, the tabs, the keys. */
export function Shell() {
	return (
		<WhereProvider>
			<Loaded />
		</WhereProvider>
	);
}

function Loaded() {
	const { job = "" } = useParams();
	const question = useJob(job);
	useEffect(() => {
		void fetchAll();
	}, []);
	const name = question.data?.job.body.name;
	useEffect(() => {
		document.title = name ? `${name} · Trowel` : "Trowel";
	}, [name]);
	return <Asked question={question}>{(view) => <Whole view={view} />}</Asked>;
}

function Whole({ view }: { view: JobView }) {
	const id = view.job.id;
	// The bench of a return visit is there for return visits only.
	const shown = BENCHES.filter(([path]) => path !== "return" || view.job.body.brief?.visit === "return-visit");
	const theme = useTheme();
	const navigate = useNavigate();
	const where = useWhere();
	const undo = useUndo(id);
	const redo = useRedo(id);
	const attach = useAttach(id);
	const [open, setOpen] = useState<"keys" | "history" | null>(null);
	const [off, setOff] = useState(keysOff());
	const files = useRef<HTMLInputElement>(null);
	const onRound = window.location.pathname.endsWith("/round");

	const takeBack = () => undo.mutate(undefined, { onSuccess: (u) => say(u.sentence) });
	const doAgain = () => redo.mutate(undefined, { onSuccess: (u) => say(u.sentence) });
	useKeys({
		n: () => document.querySelector<HTMLTextAreaElement>("#note-line")?.focus(),
		"[": () => where.walk(-1),
		"]": () => where.walk(1),
		"-": () => where.climb(-1),
		"=": () => where.climb(1),
		s: () => document.querySelector<HTMLButtonElement>("#mark-seen")?.click(),
		p: () => files.current?.click(),
		u: takeBack,
		r: doAgain,
		"?": () => setOpen("keys"),
		...Object.fromEntries(shown.map(([path], i) => [`alt+${i + 1}`, () => navigate(`/jobs/${id}/${path}`)])),
	});
	const take = async (list: FileList | null) => {
		for (const file of list ?? []) await attach.mutateAsync({ file }).catch(() => undefined);
		if (files.current) files.current.value = "";
	};
	const b = view.job.body.brief;
	return (
		<Frame>
			<Strip>
				<Back href="/">Jobs</Back>
				<Name>{view.job.body.name}</Name>
				<Facts>
					<Wide>{[view.visit, b?.address].filter(Boolean).join(" · ")}</Wide>
				</Facts>
				<Wide>
					<Soft>{b?.weather}</Soft>
				</Wide>
				<Standing />
				<QuietButton onPress={takeBack}>Undo</QuietButton>
				<Wide>
					<QuietButton onPress={doAgain}>Redo</QuietButton>
					<QuietButton onPress={() => setOpen("history")}>History</QuietButton>
					<QuietButton onPress={() => setOpen("keys")}>Keys</QuietButton>
				</Wide>
				<QuietButton
					aria-label={theme === "daylight" ? "Daylight theme; change to attic" : "Attic theme; change to daylight"}
					onPress={() => setTheme(theme === "daylight" ? "attic" : "daylight")}
				>
					{theme === "daylight" ? "Daylight" : "Attic"}
				</QuietButton>
			</Strip>
			<Unreached />
			<Side $onPhone={onRound} aria-label="Where, and the note line">
				<Dock view={view} />
			</Side>
			<Bench>
				<Tabs aria-label="Benches">
					{shown.map(([path, name]) => (
						<NavLink key={path} to={path}>
							{name}
						</NavLink>
					))}
				</Tabs>
				<Content>
					<Outlet context={view} />
				</Content>
			</Bench>
			<input
				ref={files}
				id="attach-pictures"
				type="file"
				accept="image/jpeg,image/png,image/webp"
				multiple
				hidden
				onChange={(e) => take(e.target.files)}
			/>
			<Dialog title="Keys" isOpen={open === "keys"} onClose={() => setOpen(null)}>
				<Stack $gap={6}>
					{KEYS.map(([key, what]) => (
						<p key={key}>
							<b>{key}</b> · {what}
						</p>
					))}
					<Tick
						value={off}
						onChange={(v) => {
							setKeysOff(v);
							setOff(v);
						}}
					>
						Turn single keys off on this device
					</Tick>
				</Stack>
			</Dialog>
			{open === "history" && <HistoryDialog job={id} onClose={() => setOpen(null)} />}
		</Frame>
	);
}
