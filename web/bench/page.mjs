// What bench/browser.mjs measures, in the page.
import { Library, TextureKeeper, WebGlDevice } from "../dist/index.js";

const context = () => document.createElement("canvas").getContext("webgl2");

/** A picture with detail of all sizes. */
async function pictureOf(side, type, quality) {
  const canvas = new OffscreenCanvas(side, side);
  const image = new ImageData(side, side);
  let state = 1;
  for (let i = 0; i < image.data.length; ++i) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    const x = (i >> 2) % side, y = ((i >> 2) / side) | 0;
    image.data[i] = i % 4 === 3 ? 255 : 128 + 90 * Math.sin(x / (7 + (i % 4))) * Math.cos(y / 11) + (state >>> 28);
  }
  canvas.getContext("2d").putImageData(image, 0, 0);
  return canvas.convertToBlob({ type, quality });
}

async function least(runs, work) {
  const times = [];
  for (let run = 0; run < runs; ++run) {
    const start = performance.now();
    await work();
    times.push(performance.now() - start);
  }
  return Math.min(...times);
}

/** Waits until the device has done all. */
function finish(gl, texture) {
  const framebuffer = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0);
  gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
  gl.bindFramebuffer(gl.FRAMEBUFFER, null);
  gl.deleteFramebuffer(framebuffer);
}

/** A file to a texture with all its levels, on one thread: by the library, and by what the browser has. */
export async function pictures() {
  const library = await Library.baking();
  const gl = context();
  const device = new WebGlDevice(library, gl);
  const rows = [];
  for (const [name, type, quality] of [["PNG", "image/png"], ["JPEG", "image/jpeg", 0.9]])
    for (const side of [512, 1024]) {
      const blob = await pictureOf(side, type, quality);
      const own = await least(5, async () => {
        const texture = await library.bake(blob, { role: "color" });
        const uploaded = device.upload(texture);
        finish(gl, uploaded.texture);
        uploaded.free();
        texture.free();
      });
      const browsers = await least(5, async () => {
        const bitmap = await createImageBitmap(blob);
        const texture = gl.createTexture();
        gl.bindTexture(gl.TEXTURE_2D, texture);
        gl.texImage2D(gl.TEXTURE_2D, 0, gl.SRGB8_ALPHA8, gl.RGBA, gl.UNSIGNED_BYTE, bitmap);
        gl.generateMipmap(gl.TEXTURE_2D);
        finish(gl, texture);
        gl.deleteTexture(texture);
        bitmap.close();
      });
      rows.push({ name: `${name} of ${side}`, own, browsers });
    }
  return { rows };
}

/** 50 textures that arrive while the page is to stay responsive. */
export async function responsiveness() {
  const library = await Library.reading();
  const device = new WebGlDevice(library, context());
  const blob = await pictureOf(512, "image/png");
  const files = await Promise.all(Array.from({ length: 50 }, async () => URL.createObjectURL(blob)));
  await new Promise((done) => setTimeout(done, 500));
  performance.mark("loading");
  console.log("loading begins");
  const keeper = new TextureKeeper(device, { workers: 2 });
  for (const file of files) keeper.keep(file, { role: "color" });
  const totals = await keeper.whenSettled();
  console.log("loading ends");
  return totals;
}
