// Every format and kind that a device has: uploaded, copied back, the same bytes.
import { Library, PreparedUpload, WebGpuDevice } from "../../dist/index.js";
import { randomTexels, shapesFor } from "./shapes.mjs";

async function readBack(device, texture, format, level, size) {
  const [bw, bh, bytes] = format.block;
  const columns = Math.ceil(size[0] / bw), rows = Math.ceil(size[1] / bh);
  const pitch = Math.ceil((columns * bytes) / 256) * 256;
  const buffer = device.createBuffer({ size: pitch * rows * size[2], usage: GPUBufferUsage.COPY_DST | GPUBufferUsage.MAP_READ });
  const encoder = device.createCommandEncoder();
  encoder.copyTextureToBuffer({ texture, mipLevel: level }, { buffer, bytesPerRow: pitch, rowsPerImage: rows }, [columns * bw, rows * bh, size[2]]);
  device.queue.submit([encoder.finish()]);
  await buffer.mapAsync(GPUMapMode.READ);
  const mapped = new Uint8Array(buffer.getMappedRange());
  const tight = new Uint8Array(columns * bytes * rows * size[2]);
  for (let row = 0; row < rows * size[2]; ++row) tight.set(mapped.subarray(row * pitch, row * pitch + columns * bytes), row * columns * bytes);
  buffer.destroy();
  return tight;
}

export async function run() {
  const library = await Library.reading();
  const adapter = await navigator.gpu?.requestAdapter();
  if (!adapter) throw new Error("there is no WebGPU");
  const wanted = [...adapter.features].filter((feature) => feature.startsWith("texture-compression") || feature === "float32-filterable");
  const gpu = await adapter.requestDevice({ requiredFeatures: wanted });
  const errors = [];
  gpu.addEventListener("uncapturederror", (event) => errors.push(event.error.message.split("\n")[0]));
  const device = new WebGpuDevice(library, gpu);
  const wrong = [];
  let count = 0, converted = 0;
  for (const format of library.formats.values()) {
    for (const shape of shapesFor(format, { cubeArrays: true })) {
      const texture = library.textureOf(randomTexels(shape, format, ++count), shape);
      const label = JSON.stringify(shape);
      let uploaded;
      try {
        uploaded = device.upload(texture, { staging_budget: count % 2 ? 4096 : 0, label });
      } catch (error) {
        wrong.push(`${label}: ${error}`);
        texture.free();
        continue;
      }
      const prepared = new PreparedUpload(texture, device.profile, {});
      const sent = prepared.plan.converts ? prepared.converted() : texture;
      converted += prepared.plan.converts ? 1 : 0;
      const on = library.format(sent.shape.format);
      for (let level = 0; level < sent.shape.levels; ++level) {
        const side = (length) => Math.max(1, length >> level);
        const slices = sent.shape.dimensions === 3 ? side(sent.shape.depth) : sent.shape.layers * sent.shape.faces;
        const back = await readBack(gpu, uploaded.texture, on, level, [side(sent.shape.width), side(sent.shape.height), slices]);
        const own = sent.texels(level);
        if (back.length !== own.length || back.some((byte, i) => byte !== own[i])) {
          wrong.push(`${label} as ${on.name}, level ${level}: other bytes`);
          break;
        }
      }
      if (sent !== texture) sent.free();
      prepared.free();
      uploaded.free();
      texture.free();
    }
  }
  return { count, converted, formats: device.formats.length, samplers: device.samplerCount, wrong: wrong.slice(0, 20), wrongs: wrong.length, errors: errors.slice(0, 10) };
}
