// Every format and kind that a context has: uploaded, read texel by texel with a shader, compared with the core.
import { Library, PreparedUpload, WebGlDevice } from "../../dist/index.js";
import { randomTexels, shapesFor } from "./shapes.mjs";

const vertex = `#version 300 es
void main() { vec2 p = vec2(gl_VertexID % 2, gl_VertexID / 2) * 4.0 - 1.0; gl_Position = vec4(p, 0.0, 1.0); }`;

const kinds = {
  plane: ["sampler2D", "texelFetch(t, at, level)"],
  array: ["sampler2DArray", "texelFetch(t, ivec3(at, slice), level)"],
  volume: ["sampler3D", "texelFetch(t, ivec3(at, slice), level)"],
  // A cube has no texelFetch: the middle of the texel, by direction.
  cube: ["samplerCube", "textureLod(t, direction(slice, (vec2(at) + 0.5) / float(side) * 2.0 - 1.0), float(level))"],
};

const fragment = (kind) => `#version 300 es
precision highp float; precision highp int; precision highp ${kinds[kind][0]};
uniform ${kinds[kind][0]} t; uniform int level, slice, side; out vec4 color;
vec3 direction(int face, vec2 p) {
  if (face == 0) return vec3(1.0, -p.y, -p.x);
  if (face == 1) return vec3(-1.0, -p.y, p.x);
  if (face == 2) return vec3(p.x, 1.0, p.y);
  if (face == 3) return vec3(p.x, -1.0, -p.y);
  if (face == 4) return vec3(p.x, -p.y, 1.0);
  return vec3(-p.x, -p.y, -1.0);
}
void main() { ivec2 at = ivec2(gl_FragCoord.xy); color = ${kinds[kind][1]}; }`;

function programOf(gl, kind) {
  const program = gl.createProgram();
  for (const [type, source] of [[gl.VERTEX_SHADER, vertex], [gl.FRAGMENT_SHADER, fragment(kind)]]) {
    const shader = gl.createShader(type);
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader));
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  return program;
}

/** Reads surfaces back as floats. */
class Reader {
  constructor(gl) {
    this.gl = gl;
    if (!gl.getExtension("EXT_color_buffer_float")) throw new Error("there are no targets in floating point");
    this.programs = Object.fromEntries(Object.keys(kinds).map((kind) => [kind, programOf(gl, kind)]));
    this.target = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, this.target);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.RGBA32F, 32, 32);
    gl.bindTexture(gl.TEXTURE_2D, null);
    this.framebuffer = gl.createFramebuffer();
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.framebuffer);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, this.target, 0);
  }
  read(texture, level, slice, width, height) {
    const gl = this.gl;
    const kind = texture.target === gl.TEXTURE_2D ? "plane" : texture.target === gl.TEXTURE_2D_ARRAY ? "array"
      : texture.target === gl.TEXTURE_3D ? "volume" : "cube";
    const program = this.programs[kind];
    gl.useProgram(program);
    texture.bind(0);
    for (const [name, value] of [["t", 0], ["level", level], ["slice", slice], ["side", width]]) gl.uniform1i(gl.getUniformLocation(program, name), value);
    gl.viewport(0, 0, width, height);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const values = new Float32Array(width * height * 4);
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.FLOAT, values);
    return values;
  }
}

/** The channels that a device adds to those of a format are what the core adds. */
function greatestDifference(a, b) {
  let greatest = 0;
  for (let i = 0; i < a.length; ++i) {
    const scale = Math.max(1, Math.abs(b[i]));
    const difference = Math.abs(a[i] - b[i]) / scale;
    if (!(difference <= greatest)) greatest = Number.isNaN(difference) ? Infinity : difference;
  }
  return greatest;
}

export async function run() {
  const library = await Library.reading();
  const gl = document.createElement("canvas").getContext("webgl2");
  if (!gl) throw new Error("there is no WebGL 2");
  const device = new WebGlDevice(library, gl);
  const reader = new Reader(gl);
  const wrong = [];
  const worst = {};
  let count = 0, converted = 0;
  for (const format of library.formats.values()) {
    for (const shape of shapesFor(format, { cubeArrays: false })) {
      const texture = library.textureOf(randomTexels(shape, format, ++count), shape);
      const label = JSON.stringify(shape);
      let uploaded;
      try {
        uploaded = device.upload(texture, { sampler: "mag=nearest min=nearest mip=nearest", staging_budget: count % 2 ? 600 : 0 });
      } catch (error) {
        wrong.push(`${label}: ${error}`);
        texture.free();
        continue;
      }
      const prepared = new PreparedUpload(texture, device.profile, {});
      const sent = prepared.plan.converts ? prepared.converted() : texture;
      converted += prepared.plan.converts ? 1 : 0;
      const on = library.format(sent.shape.format);
      // Drivers decode blocks to 8 bits in one of several ways; the brightest codes of sRGB are 0.009 apart.
      const isBlock = on.block[0] > 1;
      const tolerance = on.transfer === "srgb" ? (isBlock ? 1.3e-2 : 3e-3) : isBlock ? 8e-3 : on.is_float ? 1e-6 : 1e-5;
      for (let level = 0; level < sent.shape.levels; ++level) {
        const side = (length) => Math.max(1, length >> level);
        const slices = sent.shape.dimensions === 3 ? side(sent.shape.depth) : sent.shape.layers * sent.shape.faces;
        for (let slice = 0; slice < slices; ++slice) {
          const place = sent.shape.dimensions === 3 ? { level, slice } : { level, layer: Math.floor(slice / sent.shape.faces), face: slice % sent.shape.faces };
          const difference = greatestDifference(reader.read(uploaded, level, slice, side(sent.shape.width), side(sent.shape.height)), library.floats(sent, place));
          worst[on.name] = Math.max(worst[on.name] ?? 0, difference);
          if (difference > tolerance) {
            wrong.push(`${label} as ${on.name}, level ${level}, slice ${slice}: off by ${difference}`);
            level = sent.shape.levels;
            break;
          }
        }
      }
      const error = gl.getError();
      if (error !== gl.NO_ERROR) wrong.push(`${label}: error ${error}`);
      if (sent !== texture) sent.free();
      prepared.free();
      uploaded.free();
      texture.free();
    }
  }
  return { count, converted, formats: device.formats.length, samplers: device.samplerCount, wrong: wrong.slice(0, 20), wrongs: wrong.length, worst };
}
