// A device of each API, and what went wrong on it.
import { WebGlDevice, WebGpuDevice } from "../../dist/index.js";

export async function openDevice(api, library) {
  if (api === "webgl2") {
    const gl = document.createElement("canvas").getContext("webgl2");
    if (!gl) throw new Error("there is no WebGL 2");
    return { device: new WebGlDevice(library, gl), errors: () => [gl.getError()].filter((error) => error !== 0) };
  }
  const adapter = await navigator.gpu?.requestAdapter();
  if (!adapter) throw new Error("there is no WebGPU");
  const wanted = [...adapter.features].filter((feature) => feature.startsWith("texture-compression") || feature === "float32-filterable");
  const gpu = await adapter.requestDevice({ requiredFeatures: wanted });
  const seen = [];
  gpu.addEventListener("uncapturederror", (event) => seen.push(event.error.message.split("\n")[0]));
  return { device: new WebGpuDevice(library, gpu), errors: () => seen };
}
