// Damaged and hostile files end in errors, never in a trap.
import assert from "node:assert/strict";
import { test } from "node:test";
import { readdirSync, readFileSync, statSync } from "node:fs";
import { Library, LatticeError, Model } from "../dist/index.js";
import { root } from "./twin.mjs";

const wasm = (name) => readFileSync(new URL(`../dist/${name}.wasm`, import.meta.url));

function* files(folder) {
  for (const name of readdirSync(folder).sort()) {
    const path = `${folder}/${name}`;
    if (statSync(path).isDirectory()) yield* files(path);
    else if (statSync(path).size < 200000) yield path;
  }
}

/** The file itself, cut off, and with bytes turned over. */
function* damaged(bytes, seed) {
  yield bytes;
  yield bytes.subarray(0, bytes.length >> 1);
  let state = seed;
  for (let round = 0; round < 6; ++round) {
    const copy = Uint8Array.from(bytes);
    for (let i = 0; i < 1 + round * 4 && copy.length > 0; ++i) {
      state = (Math.imul(state, 1103515245) + 12345) >>> 0;
      copy[state % copy.length] ^= 1 << ((state >>> 24) & 7);
    }
    yield copy;
  }
}

function expectsAnError(work) {
  try {
    work();
    return 0;
  } catch (error) {
    assert.ok(error instanceof LatticeError, `${error?.stack}`);
    assert.ok(error.message.length > 0);
    assert.notEqual(error.kind, "memory", error.message);
    return 1;
  }
}

test("the module that reads: texture files of the corpus, whole and damaged", async () => {
  const library = await Library.reading(wasm("reading"));
  let count = 0, refused = 0;
  for (const path of [...files(`${root}fuzz/corpus/texture`), ...files(`${root}tests/damaged`)])
    for (const bytes of damaged(readFileSync(path), ++count))
      refused += expectsAnError(() => {
        const texture = library.readTexture(bytes);
        for (let level = 0; level < texture.shape.levels; ++level) texture.texels(level);
        texture.free();
      });
  assert.ok(refused > count, `${refused} of ${count}`);
});

test("the module that bakes: pictures of the corpus, whole and damaged", async () => {
  const library = await Library.baking(wasm("baking"));
  let count = 0, refused = 0;
  const kinds = ["png", "jpeg", "bmp", "tga", "qoi", "ppm", "pgm", "pbm", "pam", "pfm", "hdr", "exr", "tiff", "gif", "webp", "psd"];
  for (const kind of kinds)
    for (const path of files(`${root}fuzz/corpus/${kind}`))
      for (const bytes of damaged(readFileSync(path), ++count)) {
        refused += expectsAnError(() => {
          const { picture } = library.module.callWith("read_picture", Uint8Array.from(bytes));
          library.module.free(picture);
        });
      }
  assert.ok(count > 100 && refused > count, `${refused} of ${count}`);
});

test("models of the corpus, whole and damaged", async () => {
  const library = await Library.baking(wasm("baking"));
  let count = 0, refused = 0, triangles = 0;
  for (const path of [...files(`${root}fuzz/corpus/model`), `${root}demo/data/planter.glb`])
    for (const bytes of damaged(readFileSync(path), ++count))
      refused += expectsAnError(() => {
        const model = Model.read(library, Uint8Array.from(bytes), {}, "file:///nowhere/");
        try {
          for (const { indices } of model.geometry().primitives) triangles += indices.length / 3;
          model.textures.forEach(({ image }, texture) => image === null || expectsAnError(() => model.source(texture)));
        } finally {
          model.free();
        }
      });
  assert.ok(count > 2 && refused > 4 * count && triangles > 1000, `${refused} of ${count}, ${triangles} triangles`);
});

test("requests that make no sense are refused", async () => {
  const library = await Library.baking(wasm("baking"));
  const { module } = library;
  for (const [call, request] of [
    ["no such call", {}], ["describe", {}], ["describe", { texture: 99 }], ["describe", { texture: -1 }], ["describe", { texture: "one" }],
    ["read_texture", {}], ["read_texture", { bytes: [0] }], ["sampler", { sampler: 3 }], ["bake", { picture: 1 }], ["cube", { pictures: [] }],
    ["profile", { base: "toaster" }], ["draw", { texture: 1, scene: "moon" }], ["free", {}],
    ["open_model", {}], ["open_model", { bytes: [8, 4], files: "all" }], ["model_image", { model: 1, image: 0 }], ["model_primitives", { model: 1 }],
    ["placeholder", { role: "color", kind: "sphere" }], ["without_top_levels", { texture: 1, levels: 1 }], ["plan_upload", { profile: 1 }],
  ])
    assert.throws(() => module.call(call, request), (error) => error instanceof LatticeError && error.kind !== "memory", call);
  const { picture } = module.callWith("picture_of_pixels", new Uint8Array(16), { width: 2, height: 2 });
  for (const options of [{ role: "hat" }, { as: "bc9" }, { as: "bc7-srgb", effort: 11 }, { filter: "wish" }, { edge: "torn" }, { origin: "left" }, { levels: 9 }, { levels: 1.5e10 }, { rolle: "normal" }, { effort: 9 }, { rate_distortion: 2 }])
    assert.throws(() => module.call("bake", { picture, ...options }), LatticeError, JSON.stringify(options));
  module.free(picture);
  assert.throws(() => module.call("bake", { picture }), /freed/);
});

test("memory stays flat over 2,000 loads and drops", async () => {
  const library = await Library.baking(wasm("baking"));
  const bytes = readFileSync(`${root}demo/data/label.png`);
  let early = 0;
  for (let i = 0; i < 2000; ++i) {
    const texture = await library.bake(bytes);
    texture.free();
    if (i === 200) early = library.module.memoryBytes;
  }
  assert.ok(library.module.memoryBytes <= early, `${early} became ${library.module.memoryBytes}`);
});
