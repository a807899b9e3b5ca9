// Files that arrive in ranges.
import assert from "node:assert/strict";
import { test } from "node:test";
import { readFileSync } from "node:fs";
import { Library, LatticeError, TextureStream, fetchedRanges, memoryRanges } from "../dist/index.js";
import { serve } from "./browser.mjs";
import { demo, root } from "./twin.mjs";

const wasm = (name) => readFileSync(new URL(`../dist/${name}.wasm`, import.meta.url));

for (const supercompression of ["none", "zstd"])
  test(`levels come when they are asked for, and no byte besides (${supercompression})`, async () => {
    const library = await Library.baking(wasm("baking"));
    const slate = await library.bake(readFileSync(demo("slate.png")), { as: "bc7-srgb", effort: 0 });
    const file = slate.file("ktx2", { supercompression });
    const asked = [];
    const source = memoryRanges(file);
    const counted = { size: source.size, read: (offset, length) => (asked.push([offset, length]), source.read(offset, length)) };
    const stream = await TextureStream.open(library, counted);
    assert.deepEqual(stream.shape, slate.shape);
    const headed = asked.reduce((sum, [, length]) => sum + length, 0);
    assert.ok(headed < 3000, `${headed} bytes for the header`);
    const small = await stream.read(3);
    const got = asked.reduce((sum, [, length]) => sum + length, 0);
    assert.ok(got < file.length / 16, `${got} bytes of ${file.length}`);
    assert.equal(small.shape.levels, slate.shape.levels - 3);
    assert.deepEqual(small.texels(0), slate.texels(3));
    const whole = await stream.read();
    for (let level = 0; level < slate.shape.levels; ++level) assert.deepEqual(whole.texels(level), slate.texels(level));
    for (const texture of [slate, small, whole, stream]) texture.free();
  });

test("ranges of a server, and what is missing or cut off", async () => {
  const server = await serve(root);
  try {
    const at = (path) => `http://localhost:${server.address().port}/${path}`;
    const library = await Library.reading(wasm("reading"));
    const name = "fuzz/corpus/texture";
    const { readdirSync } = await import("node:fs");
    const ktx = readdirSync(`${root}${name}`).find((one) => one.endsWith(".ktx2")) ?? readdirSync(`${root}${name}`)[0];
    const bytes = readFileSync(`${root}${name}/${ktx}`);
    const stream = await TextureStream.open(library, await fetchedRanges(at(`${name}/${ktx}`)));
    const streamed = await stream.read(), whole = library.readTexture(bytes);
    assert.deepEqual(streamed.texels(0), whole.texels(0));
    await assert.rejects(fetchedRanges(at("no/such/file.ktx2")), (error) => error instanceof LatticeError && error.kind === "missing");
    await assert.rejects(async () => TextureStream.open(library, memoryRanges(bytes.subarray(0, 60))), LatticeError);
    await assert.rejects(async () => TextureStream.open(library, memoryRanges(new Uint8Array(0))), LatticeError);
  } finally {
    server.close();
  }
});
