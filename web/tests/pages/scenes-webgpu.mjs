import { Library, WebGpuScenes } from "../../dist/index.js";
import { openDevice } from "./devices.mjs";
import { compareScenes } from "./scenes.mjs";

export async function run() {
  const library = await Library.baking();
  const { device, errors } = await openDevice("webgpu", library);
  return { ...(await compareScenes(library, device, new WebGpuScenes(device))), errors: errors() };
}
