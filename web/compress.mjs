// Writes a compressed copy beside each file of the built interface, so that nothing is compressed while somebody waits.
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { URL } from "node:url";
import { brotliCompressSync, gzipSync } from "node:zlib";

const FOLDER = new URL("dist/assets/", import.meta.url);

for (const name of readdirSync(FOLDER)) {
  if (!/\.(js|css|svg)$/.test(name)) continue;
  const file = new URL(name, FOLDER);
  const data = readFileSync(file);
  writeFileSync(new URL(`${name}.br`, FOLDER), brotliCompressSync(data));
  writeFileSync(new URL(`${name}.gz`, FOLDER), gzipSync(data, { level: 9 }));
}
