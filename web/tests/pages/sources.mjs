// A picture in every form that a page may have it in, and files picked by the device.
import { Library } from "../../dist/index.js";
import { openDevice } from "./devices.mjs";

export async function run() {
  const library = await Library.baking();
  const bytes = new Uint8Array(await (await fetch("/data/slate.png")).arrayBuffer());
  const blob = new Blob([bytes]);
  const bitmap = await createImageBitmap(blob, { premultiplyAlpha: "none", colorSpaceConversion: "none" });
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  canvas.getContext("2d").drawImage(bitmap, 0, 0);
  const sources = { bytes, buffer: bytes.buffer, blob, file: new File([bytes], "slate.png"), bitmap, data: canvas.getContext("2d").getImageData(0, 0, bitmap.width, bitmap.height) };
  const files = {};
  for (const [name, source] of Object.entries(sources)) {
    const texture = await library.bake(source, { role: "color" });
    const digest = await crypto.subtle.digest("SHA-256", texture.texels(0));
    files[name] = [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
    texture.free();
  }
  const picks = {};
  for (const api of ["webgl2", "webgpu"]) {
    const { device } = await openDevice(api, library);
    const given = { "astc-6x6-srgb": "astc", "bc7-srgb": "bc", "etc2-rgba8-srgb": "etc", "rgba8-srgb": "plain" };
    const picked = device.pick(given);
    const first = Object.keys(given).find((name) => device.formats.includes(name));
    const lacking = [...library.formats.keys()].filter((name) => !device.formats.includes(name));
    const none = device.pick({ [lacking[0]]: "first", [lacking[1]]: "last" });
    let refused = "";
    try {
      device.pick({ "bc8-srgb": "" });
    } catch (error) {
      refused = error.message;
    }
    picks[api] = { picked, expected: given[first], none, refused };
  }
  return { files, picks };
}
