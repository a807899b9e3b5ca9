// How long the modules take, on one thread, beside the core of this machine: node bench/core.mjs
// Each figure is the least of several runs. The native one needs YL_WEB_TWIN.
import { readFileSync } from "node:fs";
import { Library } from "../dist/index.js";
import { demo } from "../tests/twin.mjs";

const from = process.argv[2] ? new URL(`${process.argv[2]}/`, `file://${process.cwd()}/`) : new URL("../dist/", import.meta.url);
const baking = await Library.baking(new URL("baking.wasm", from));
const reading = await Library.reading(new URL("reading.wasm", from));

function least(runs, work) {
  let best = Infinity;
  for (let run = 0; run < runs; ++run) {
    const start = performance.now();
    work();
    best = Math.min(best, performance.now() - start);
  }
  return best;
}

const side = 1024;
const noise = new Uint8ClampedArray(side * side * 4);
let state = 1;
for (let i = 0; i < noise.length; ++i) {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  const x = (i >> 2) % side, y = (i >> 2) / side | 0;
  noise[i] = i % 4 === 3 ? 255 : 128 + 90 * Math.sin(x / (7 + i % 4)) * Math.cos(y / 11) + (state >>> 28);
}
const picture = (library) => library.module.callWith("picture_of_pixels", new Uint8Array(noise.buffer), { width: side, height: side }).picture;
const kept = picture(baking);
const bakeFrom = (options) => {
  const made = baking.module.call("bake", { picture: kept, ...options });
  return made.texture;
};
const megapixels = side * side / 1e6;
const report = (name, ms, unit = "MP/s", amount = megapixels) => console.log(`${name.padEnd(34)} ${ms.toFixed(1).padStart(8)} ms  ${(amount / ms * 1000).toFixed(1).padStart(8)} ${unit}`);

const drop = (texture) => baking.module.free(texture);
report("mips in linear light", least(5, () => drop(bakeFrom({ role: "color" }))));
for (const as of ["bc1-srgb", "bc7-srgb", "etc2-rgb8-srgb", "astc-4x4-srgb", "astc-6x6-srgb"])
  for (const effort of as === "bc7-srgb" ? [0, 3] : [1])
    report(`${as}, effort ${effort}`, least(2, () => drop(bakeFrom({ role: "color", levels: 1, as, effort }))));
const png = readFileSync(demo("slate.png"));
const slate = () => baking.module.callWith("read_picture", png, {}).picture;
report("PNG (slate)", least(10, () => baking.module.free(slate())), "MB/s", png.length / 1e6);
const plain = baking.rebake({ object: bakeFrom({ role: "color" }) }, {});
for (const [name, options] of [["zstd", { supercompression: "zstd" }], ["plain", {}]]) {
  const file = plain.file("ktx2", options);
  report(`reading KTX 2.0, ${name}`, least(10, () => reading.readTexture(file).free()), "MB/s", plain.shape.bytes / 1e6);
}
for (const as of ["bc1-srgb", "bc7-srgb", "etc2-rgba8-srgb", "astc-6x6-srgb"]) {
  const object = bakeFrom({ role: "color", levels: 1, as, effort: 0 });
  const file = new (plain.constructor)(baking.module, { texture: object, shape: {}, metadata: {} }).file("ktx2");
  const texture = reading.readTexture(file);
  report(`decoding ${as}`, least(5, () => texture.decoded().free()));
  texture.free();
}
