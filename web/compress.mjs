// Packs every text file of the build once, so that the server never has to.
import { readdirSync, readFileSync, statSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, gzipSync } from "node:zlib";

function files(dir) {
	return readdirSync(dir).flatMap((name) => {
		const path = join(dir, name);
		return statSync(path).isDirectory() ? files(path) : [path];
	});
}

for (const path of files("dist")) {
	if (/\.(js|css|svg|json)$/.test(path)) {
		const bytes = readFileSync(path);
		writeFileSync(`${path}.br`, brotliCompressSync(bytes));
		writeFileSync(`${path}.gz`, gzipSync(bytes, { level: 9 }));
	}
}
