// Many pictures by workers: sound ones arrive, broken and missing ones are named, cancelled ones are dropped.
import { TexturePool, Library, WebGlDevice } from "../../dist/index.js";
import { pngOf } from "./pictures.mjs";

export async function run() {
  const library = await Library.reading();
  const gl = document.createElement("canvas").getContext("webgl2");
  const device = new WebGlDevice(library, gl);
  const pool = new TexturePool({ workers: 2 });
  const shown = [], failed = [];
  await Promise.all(Array.from({ length: 200 }, async (_, i) => {
    try {
      let bytes = new Uint8Array(await (await pngOf(16 + (i % 5) * 8, i)).arrayBuffer());
      if (i % 20 === 3) bytes = bytes.subarray(0, bytes.length >> 1);
      const texture = library.readTexture(await pool.bake(bytes, { role: "color" }));
      shown.push(device.upload(texture, { label: `picture ${i}` }));
      texture.free();
    } catch (error) {
      failed.push([i, error.kind, error.message]);
    }
  }));
  const stop = new AbortController();
  const cancelled = Array.from({ length: 20 }, async () => pool.bake(await pngOf(64, 1), {}, stop.signal).then(() => "done", (error) => error.kind));
  stop.abort();
  const outcomes = await Promise.all(cancelled);
  pool.close();
  const after = await pool.bake(await pngOf(8, 1)).then(() => "done", (error) => error.kind);
  const samplers = device.samplerCount;
  for (const texture of shown) texture.free();
  return { shown: shown.length, failed, outcomes, after, samplers, samplersLeft: device.samplerCount, error: gl.getError(), pending: pool.pending };
}
