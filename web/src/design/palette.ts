// Made by `cargo xtask types` from the palette of crates/drawing. Change it there.
export const daylight = {
	plaster: "#FBFAF7",
	plasterLow: "#F2EFE8",
	plasterLine: "#E4DFD3",
	field: "#FFFFFF",
	ink: "#1B2329",
	inkSoft: "#4A545B",
	copper: "#9A4B1F",
	onCopper: "#FFFFFF",
	verdigris: "#1F6F63",
	brick: "#9C2F2A",
	ochre: "#7A5600",
	water: "#1E5FA8",
	seen: "#D3E2DC",
	noted: "#E9D9C6",
};

export const attic: typeof daylight = {
	plaster: "#12181C",
	plasterLow: "#1B2328",
	plasterLine: "#2A353C",
	field: "#0D1215",
	ink: "#EDEAE2",
	inkSoft: "#B9C0C2",
	copper: "#E39A63",
	onCopper: "#12181C",
	verdigris: "#6FC3B2",
	brick: "#F08C82",
	ochre: "#E3BC59",
	water: "#7FB6F0",
	seen: "#24403B",
	noted: "#4A3726",
};
