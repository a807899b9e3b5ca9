// Puts the modules of WebAssembly beside the compiled TypeScript, and the licence where the package takes it from.
import { copyFileSync, readFileSync } from "node:fs";
import { gzipSync } from "node:zlib";

copyFileSync(new URL("../LICENSE", import.meta.url), new URL("LICENSE", import.meta.url));
const aims = { reading: 180, baking: 700 };  // KB, gzipped: not reached so far
for (const [name, aim] of Object.entries(aims)) {
  const built = new URL(`../build/wasm/${name}.wasm`, import.meta.url);
  copyFileSync(built, new URL(`dist/${name}.wasm`, import.meta.url));
  const bytes = readFileSync(built);
  const packed = gzipSync(bytes, { level: 9 }).length;
  console.log(`${name}.wasm: ${bytes.length} bytes, ${packed} gzipped (aim: ${aim} KB)`);
}
