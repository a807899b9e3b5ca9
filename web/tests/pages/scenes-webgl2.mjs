import { Library, WebGlScenes } from "../../dist/index.js";
import { openDevice } from "./devices.mjs";
import { compareScenes } from "./scenes.mjs";

export async function run() {
  const library = await Library.baking();
  const { device, errors } = await openDevice("webgl2", library);
  return { ...(await compareScenes(library, device, new WebGlScenes(device))), errors: errors() };
}
