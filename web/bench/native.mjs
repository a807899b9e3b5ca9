// KTX 2.0 with Zstandard as far as the device: read, planned, laid out; by the module and by the core of this machine, on one
// processor each: node bench/native.mjs (YL_WEB_TWIN names the native side)
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Library } from "../dist/index.js";
import { NativeSide, WasmSide, demo } from "../tests/twin.mjs";

async function least(side, file, runs = 12) {
  const { profile } = await side.ask("profile", { base: "webgl2", has: ["s3tc", "s3tc-srgb", "bptc"] });
  let best = Infinity;
  for (let run = 0; run < runs; ++run) {
    const start = performance.now();
    const { texture } = await side.ask("read_texture", {}, file);
    const { upload, plan } = await side.ask("prepare_upload", { texture, profile });
    for (let batch = 0; batch < plan.batches.length; ++batch) await side.ask("fill_staging", { upload, texture, batch });
    best = Math.min(best, performance.now() - start);
    for (const object of [texture, upload]) await side.ask("free", { object });
  }
  return best;
}

const folder = mkdtempSync(join(tmpdir(), "yl-bench-"));
const library = await Library.baking();
for (const [name, options] of [["plain", {}], ["BC7", { as: "bc7-srgb", effort: 0 }]]) {
  const texture = await library.bake(readFileSync(demo("slate.png")), { role: "color", ...options });
  const path = join(folder, `${name}.ktx2`);
  writeFileSync(path, texture.file("ktx2", { supercompression: "zstd" }));
  const wasm = await WasmSide.load("reading"), native = new NativeSide();
  const own = await least(wasm, path), theirs = await least(native, path);
  native.close();
  console.log(`slate, ${name.padEnd(6)} module ${own.toFixed(2)} ms, native ${theirs.toFixed(2)} ms: ${(theirs / own).toFixed(2)} of its speed`);
  texture.free();
}
rmSync(folder, { recursive: true });
