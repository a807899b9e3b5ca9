// Draws a glTF model with the textures and samplers that its materials bind.
import { Library, Model, TextureKeeper, WebGlDevice } from "../dist/index.js";

const vertexSource = `#version 300 es
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec4 tangent;
layout(location = 3) in vec4 coordinates;
layout(location = 4) in vec4 vertexColor;
uniform mat4 toClip;
out vec3 n, t, b;
out vec4 uvs, tint;
void main() {
  gl_Position = toClip * vec4(position, 1.0);
  n = normal;
  t = tangent.xyz;
  b = cross(normal, tangent.xyz) * tangent.w;
  uvs = coordinates;
  tint = vertexColor;
}`;

// A sun and a sky; metals mirror nothing here, so that they are shown as their colour.
const fragmentSource = `#version 300 es
precision highp float;
uniform sampler2D maps[4];             // base color, normal, metallic-roughness, occlusion
uniform vec3 uRows[4], vRows[4];       // the bindings' transforms
uniform ivec4 sets;                    // their coordinate sets; -1: nothing is bound
uniform vec4 baseColor, scales;        // normal scale, occlusion strength, cutoff, 1 if masked
uniform vec3 toEye, emissive;
in vec3 n, t, b;
in vec4 uvs, tint;
out vec4 color;
vec2 at(int i) {
  vec3 uv = vec3(sets[i] == 1 ? uvs.zw : uvs.xy, 1.0);
  return vec2(dot(uRows[i], uv), dot(vRows[i], uv));
}
void main() {
  vec4 base = baseColor * tint;
  if (sets.x >= 0) base *= texture(maps[0], at(0));
  if (scales.w == 1.0 && base.a < scales.z) discard;
  vec3 normal = vec3(0.0, 0.0, 1.0);
  if (sets.y >= 0) {
    vec2 xy = texture(maps[1], at(1)).xy * 2.0 - 1.0;
    normal = normalize(vec3(xy * scales.x, sqrt(max(0.0, 1.0 - dot(xy, xy)))));
  }
  vec3 facing = normalize(mat3(t, b, n) * normal) * (gl_FrontFacing ? 1.0 : -1.0);
  float roughness = sets.z >= 0 ? texture(maps[2], at(2)).g : 0.8;
  float open = sets.w >= 0 ? mix(1.0, texture(maps[3], at(3)).r, scales.y) : 1.0;
  vec3 sun = normalize(vec3(0.5, 0.8, 0.6));
  float lit = max(dot(facing, sun), 0.0);
  float power = 2.0 / max(roughness * roughness * roughness * roughness, 0.002);
  float gloss = pow(max(dot(facing, normalize(sun + toEye)), 0.0), power) * (power + 8.0) / 80.0;
  vec3 sky = mix(vec3(0.12, 0.10, 0.08), vec3(0.32, 0.38, 0.45), 0.5 + 0.5 * facing.y) * open;
  vec3 light = base.rgb * (sky + 0.9 * lit) + vec3(gloss * lit * 0.2) + emissive;
  vec3 encoded = mix(12.92 * light, 1.055 * pow(light, vec3(1.0 / 2.4)) - 0.055, step(vec3(0.0031308), light));
  color = vec4(encoded * base.a, base.a);
}`;

const slots = ["base color", "normal", "metallic-roughness", "occlusion"];
const canvas = document.querySelector("canvas");
const gl = canvas.getContext("webgl2", { preserveDrawingBuffer: true });
const library = await Library.baking();
const device = new WebGlDevice(library, gl);
const keeper = new TextureKeeper(device);
const model = await Model.fetch(library, "/data/planter.glb");
const kept = model.keepTextures(keeper);
const { primitives, vertex_bytes: stride, attributes } = model.geometry();

function programOf() {
  const program = gl.createProgram();
  for (const [type, source] of [[gl.VERTEX_SHADER, vertexSource], [gl.FRAGMENT_SHADER, fragmentSource]]) {
    const shader = gl.createShader(type);
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program));
  return program;
}

function meshOf({ vertices, indices }) {
  const mesh = gl.createVertexArray();
  gl.bindVertexArray(mesh);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, vertices, gl.STATIC_DRAW);
  [["position", 3], ["normal", 3], ["tangent", 4], ["coordinates", 4], ["color", 4]].forEach(([name, count], place) => {
    gl.enableVertexAttribArray(place);
    gl.vertexAttribPointer(place, count, gl.FLOAT, false, stride, attributes[name]);
  });
  gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, indices, gl.STATIC_DRAW);
  gl.bindVertexArray(null);
  return mesh;
}

/** The box around all vertices, as its middle and half its diagonal. */
function boxOf() {
  const low = [Infinity, Infinity, Infinity], high = [-Infinity, -Infinity, -Infinity];
  for (const { vertices } of primitives) {
    const floats = new Float32Array(vertices.buffer);
    for (let i = attributes.position / 4; i < floats.length; i += stride / 4)
      for (let axis = 0; axis < 3; ++axis) {
        low[axis] = Math.min(low[axis], floats[i + axis]);
        high[axis] = Math.max(high[axis], floats[i + axis]);
      }
  }
  return { middle: low.map((value, i) => (value + high[i]) / 2), radius: Math.hypot(...low.map((value, i) => high[i] - value)) / 2 };
}

const program = programOf();
const place = (name) => gl.getUniformLocation(program, name);
const meshes = primitives.map(meshOf);
const samplers = model.materials.map(({ bindings }) => bindings.map(({ sampler }) => device.sampler(sampler)));
const { middle, radius } = boxOf();
let turn = 30;

/** Seen from above by a quarter of a right angle; columns of a matrix, as WebGL wants them. */
function view() {
  const yaw = (turn * Math.PI) / 180, pitch = 0.35, distance = 2.6 * radius, near = 0.1 * radius, far = 6 * radius;
  const back = [Math.sin(yaw) * Math.cos(pitch), Math.sin(pitch), Math.cos(yaw) * Math.cos(pitch)];
  const right = [Math.cos(yaw), 0, -Math.sin(yaw)];
  const up = [-Math.sin(yaw) * Math.sin(pitch), Math.cos(pitch), -Math.cos(yaw) * Math.sin(pitch)];
  const zoom = 2.4, aspect = canvas.width / canvas.height;
  const dot = (a, b) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const rows = [
    [...right.map((value) => (value * zoom) / aspect), (-dot(right, middle) * zoom) / aspect],
    [...up.map((value) => value * zoom), -dot(up, middle) * zoom],
  ];
  const depth = [...back.map((value) => -value), dot(back, middle) + distance];
  const a = (far + near) / (far - near), c = (-2 * far * near) / (far - near);
  const third = depth.map((value, i) => value * a + (i === 3 ? c : 0));
  return { back, matrix: [0, 1, 2, 3].flatMap((i) => [rows[0][i], rows[1][i], third[i], depth[i]]) };
}

function bindMaterial(material, own) {
  const sets = [-1, -1, -1, -1];
  const scales = [1, 1, material.cutoff, material.alpha === "mask" ? 1 : 0];
  material.bindings.forEach((binding, i) => {
    const unit = slots.indexOf(binding.slot);
    if (unit < 0) return;
    kept[binding.texture].texture.bind(unit, own[i].sampler);
    sets[unit] = binding.coordinate_set;
    gl.uniform3fv(place(`uRows[${unit}]`), binding.matrix.slice(0, 3));
    gl.uniform3fv(place(`vRows[${unit}]`), binding.matrix.slice(3));
    if (binding.slot === "normal") scales[0] = binding.factor;
    if (binding.slot === "occlusion") scales[1] = binding.factor;
  });
  gl.uniform4iv(place("sets"), sets);
  gl.uniform4fv(place("scales"), scales);
  gl.uniform4fv(place("baseColor"), material.base_color);
  gl.uniform3fv(place("emissive"), material.emissive);
  gl[material.is_two_sided ? "disable" : "enable"](gl.CULL_FACE);
  gl[material.alpha === "blend" ? "enable" : "disable"](gl.BLEND);
}

function draw() {
  const { back, matrix } = view();
  gl.viewport(0, 0, canvas.width, canvas.height);
  gl.clearColor(0.16, 0.18, 0.2, 1);
  gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
  gl.enable(gl.DEPTH_TEST);
  gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
  gl.useProgram(program);
  gl.uniform1iv(place("maps"), [0, 1, 2, 3]);
  gl.uniformMatrix4fv(place("toClip"), false, matrix);
  gl.uniform3fv(place("toEye"), back);
  const order = primitives.map((_, i) => i).sort((a, b) => Number(blends(a)) - Number(blends(b)));
  for (const i of order) {
    const material = model.materials[primitives[i].material];
    if (!material) continue;
    bindMaterial(material, samplers[primitives[i].material]);
    gl.bindVertexArray(meshes[i]);
    gl.drawElements(gl.TRIANGLES, primitives[i].indices.length, gl.UNSIGNED_INT, 0);
  }
  gl.bindVertexArray(null);
}
const blends = (i) => model.materials[primitives[i].material]?.alpha === "blend";

function list() {
  const rows = model.materials.flatMap(({ name, bindings }) => bindings.map(({ slot, texture, sampler }) => {
    const { label, role } = model.textures[texture];
    const { state, error } = kept[texture];
    return [name, slot, label, role, sampler, error ? `${state}: ${error.problem}` : state];
  }));
  document.querySelector("tbody").replaceChildren(...rows.map((cells) => {
    const row = document.createElement("tr");
    row.append(...cells.map((text) => Object.assign(document.createElement("td"), { textContent: text })));
    return row;
  }));
  return rows;
}

function update() {
  draw();
  const rows = list();
  const pixels = new Uint8Array(canvas.width * canvas.height * 4);
  gl.readPixels(0, 0, canvas.width, canvas.height, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
  const colors = new Set(new Uint32Array(pixels.buffer)).size;
  window.result = { rows, colors, turn, error: gl.getError(), samplers: device.samplerCount, totals: keeper.totals() };
}

keeper.addEventListener("change", draw);
canvas.addEventListener("keydown", ({ key }) => {
  if (key !== "ArrowLeft" && key !== "ArrowRight") return;
  turn = (turn + (key === "ArrowRight" ? 10 : 350)) % 360;
  update();
});
draw();
list();
await keeper.whenSettled();
update();
document.title += ": done";
