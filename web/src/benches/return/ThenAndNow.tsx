import { useEffect, useRef, useState } from "react";
import styled from "styled-components";
import { PlainButton, QuietButton } from "../../design/buttons";
import { Row, Soft, Stack } from "../../design/layout";
import { line, tone } from "../../design/tokens";

interface Props {
	old: string;
	now: string | null;
	camera: boolean;
	onCamera: (on: boolean) => void;
	onTaken: (file: File) => void;
}

const Frame = styled.div`
	position: relative;
	max-width: 560px;
	aspect-ratio: 4 / 3;
	overflow: hidden;
	border: ${line};
	background: ${tone.plasterLow};
	img, video { position: absolute; inset: 0; width: 100%; height: 100%; object-fit: contain; }
`;
const Edge = styled.div`position: absolute; top: 0; bottom: 0; width: 2px; background: ${tone.copper}; pointer-events: none;`;
const Slider = styled.input`width: 100%; max-width: 560px; min-height: 44px; accent-color: ${tone.copper};`;

/** The picture of then and the one of now in one frame, with a slider between them; or then half transparent over the camera. */
export function ThenAndNow({ old, now, camera, onCamera, onTaken }: Props) {
	const [part, setPart] = useState(50);
	const [gone, setGone] = useState(false);
	const [wrong, setWrong] = useState("");
	const video = useRef<HTMLVideoElement>(null);
	useEffect(() => {
		if (!camera) return;
		let stream: MediaStream | undefined;
		let over = false;
		const begin = async () => {
			if (!navigator.mediaDevices) throw new Error("none");
			stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } });
			if (over) for (const t of stream.getTracks()) t.stop();
			else if (video.current) video.current.srcObject = stream;
		};
		begin().catch(() => {
			setWrong("The camera cannot be used here. Take the picture with another and choose it below.");
			onCamera(false);
		});
		return () => {
			over = true;
			for (const t of stream?.getTracks() ?? []) t.stop();
		};
	}, [camera, onCamera]);
	const shoot = () => {
		const v = video.current;
		if (!v) return;
		const canvas = document.createElement("canvas");
		canvas.width = v.videoWidth;
		canvas.height = v.videoHeight;
		canvas.getContext("2d")?.drawImage(v, 0, 0);
		canvas.toBlob((b) => b && onTaken(new File([b], "now.jpg", { type: "image/jpeg" })), "image/jpeg", 0.92);
		onCamera(false);
	};
	if (gone) return <Soft>The picture of the earlier visit is not here any more.</Soft>;
	return (
		<Stack $gap={4}>
			<Frame>
				{camera && <video ref={video} autoPlay playsInline muted />}
				{!camera && now && <img src={now} alt="Now" />}
				<img
					src={old}
					alt="Then"
					onError={() => setGone(true)}
					style={camera ? { opacity: 0.5 } : now ? { clipPath: `inset(0 ${100 - part}% 0 0)` } : undefined}
				/>
				{!camera && now && <Edge style={{ left: `${part}%` }} />}
			</Frame>
			{!camera && now && (
				<Slider
					type="range"
					min={0}
					max={100}
					value={part}
					aria-label="Then to the left, now to the right"
					onChange={(e) => setPart(Number(e.target.value))}
				/>
			)}
			<Row>
				{camera ? (
					<>
						<PlainButton onPress={shoot}>Take it in the same frame</PlainButton>
						<QuietButton onPress={() => onCamera(false)}>Put the camera away</QuietButton>
					</>
				) : (
					<QuietButton onPress={() => onCamera(true)}>Then, half transparent over the camera</QuietButton>
				)}
				{wrong && <Soft role="alert">{wrong}</Soft>}
			</Row>
		</Stack>
	);
}
