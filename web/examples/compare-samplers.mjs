// The page that people play with: every part of a sampler, live, by the device and by the core.
import { Library, WebGlDevice, WebGlScenes } from "../dist/index.js";

const choices = {
  picture: ["slate.png", "label.png", "lattice.png", "dawn.hdr"],
  scene: ["floor", "panel", "ball", "sky"],
  mag: ["linear", "nearest"],
  min: ["linear", "nearest"],
  mip: ["linear", "nearest", "none"],
  wrapU: ["repeat", "mirror", "clamp-to-edge", "clamp-to-border", "mirror-once"],
  wrapV: ["repeat", "mirror", "clamp-to-edge", "clamp-to-border", "mirror-once"],
};

const form = document.querySelector("form");
const controls = form.elements;
for (const [name, values] of Object.entries(choices)) controls[name].append(...values.map((value) => new Option(value)));

const library = await Library.baking();
const gl = document.createElement("canvas").getContext("webgl2");
const device = new WebGlDevice(library, gl);
const scenes = new WebGlScenes(device);
const size = { width: 480, height: 320 };
let textures = { plane: undefined, cube: undefined };

/** Flat scenes show the picture itself, the others a cube made of it as a panorama. */
async function load(bytes) {
  const isTexture = library.isTexture(bytes);
  const plane = isTexture ? library.readTexture(bytes) : await library.bake(bytes, {});
  const { width, height } = plane.shape;
  const isPanorama = !isTexture && width === 2 * height;
  const cube = plane.shape.faces === 6 ? plane : isPanorama ? await library.cube([{ source: bytes }], {}) : undefined;
  for (const old of new Set(Object.values(textures))) old?.free();
  textures = { plane: plane === cube ? undefined : plane, cube };
  const isBright = (texture) => texture && library.format(texture.shape.format).is_float;
  for (const option of controls.scene.options) option.disabled = ["ball", "sky"].includes(option.value) ? !cube : !textures.plane || isBright(plane);
  if (controls.scene.selectedOptions[0].disabled) controls.scene.value = [...controls.scene.options].find((option) => !option.disabled).value;
}

function samplerText() {
  const value = (name) => controls[name].value;
  const parts = [`mag=${value("mag")} min=${value("min")} mip=${value("mip")} wrap=${value("wrapU")},${value("wrapV")}`,
    `aniso=${value("aniso")} lod=${value("minLevel")}..${Math.max(value("minLevel"), value("maxLevel"))} bias=${value("bias")}`];
  if ([value("wrapU"), value("wrapV")].includes("clamp-to-border")) {
    const color = [1, 3, 5].map((at) => (Number.parseInt(value("border").slice(at, at + 2), 16) / 255).toFixed(3));
    parts.push(`border=${color.join(",")},1`);
  }
  return parts.join(" ");
}

function show(id, { width, height, data }) {
  document.querySelector(id).getContext("2d").putImageData(new ImageData(data, width, height), 0, 0);
}

function shareWithin2(a, b) {
  let within = 0;
  for (let i = 0; i < a.length; i += 4) within += [0, 1, 2].every((c) => Math.abs(a[i + c] - b[i + c]) <= 2) ? 1 : 0;
  return within / (a.length / 4);
}

function draw() {
  for (const output of form.querySelectorAll("output")) output.value = output.parentElement.querySelector("input").value;
  const sampler = samplerText();
  const scene = controls.scene.value;
  const texture = ["ball", "sky"].includes(scene) ? textures.cube : textures.plane;
  const options = { scene, ...size, turn: 40, tiles_u: 2, tiles_v: 2 };
  const onDevice = device.upload(texture, { sampler });
  const byGpu = scenes.draw(onDevice, options), byCpu = library.draw(texture, { ...options, sampler });
  show("#gpu", byGpu);
  show("#cpu", byCpu);
  const share = shareWithin2(byGpu.data, byCpu.data);
  document.querySelector("#words").textContent = `${onDevice.samplerWords.text}: ${(100 * share).toFixed(1)} % of the pixels within 2 codes`;
  document.querySelector("#findings").replaceChildren(...onDevice.findings.map(({ problem, remedy }) => {
    const item = document.createElement("li");
    item.textContent = remedy === "" ? problem : `${problem}; ${remedy}`;
    return item;
  }));
  window.result = { share, sampler: onDevice.samplerWords.text, findings: onDevice.findings.map(({ code }) => code) };
  onDevice.free();
}

async function choose() {
  try {
    const [own] = controls.file.files;
    const bytes = own ? await own.arrayBuffer() : await (await fetch(`/data/${controls.picture.value}`)).arrayBuffer();
    await load(new Uint8Array(bytes));
    draw();
  } catch (error) {
    document.querySelector("#words").textContent = error.message;
  }
}

form.addEventListener("input", ({ target }) => {
  if (target.name === "picture") controls.file.value = "";
  if (["picture", "file"].includes(target.name)) choose();
  else draw();
});
form.addEventListener("submit", (event) => event.preventDefault());
await choose();
document.title += ": done";
