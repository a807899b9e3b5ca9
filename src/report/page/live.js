// Scenes drawn by WebGL 2, with the library's own shaders. One context draws for all canvases of the page.

// The canvas takes codes of sRGB: scenes give light, which is encoded after them.
const writingTail = `
#undef main
void main() {
    scene();
    color.rgb = mix(12.92 * color.rgb, 1.055 * pow(max(color.rgb, 0.0031308), vec3(1.0 / 2.4)) - 0.055, vec3(greaterThan(color.rgb, vec3(0.0031308))));
}
`;
// WebGL has neither a bias of samplers nor mirroring once: both happen where the scene reads its texture.
const readingHead = `uniform float level_bias;
uniform vec2 mirrors_once;
vec4 read_texture(sampler2D map, vec2 uv) { return texture(map, mix(uv, abs(uv), mirrors_once), level_bias); }
vec4 read_texture(samplerCube map, vec3 direction) { return texture(map, direction, level_bias); }
#define texture read_texture
#define main scene
`;

// The extensions that bring block formats, by the numbers of OpenGL's internal formats.
const blockExtensions = [
  ["WEBGL_compressed_texture_s3tc", 0x83f0, 0x83f3], ["WEBGL_compressed_texture_s3tc_srgb", 0x8c4c, 0x8c4f],
  ["EXT_texture_compression_rgtc", 0x8dbb, 0x8dbe], ["EXT_texture_compression_bptc", 0x8e8c, 0x8e8f],
  ["WEBGL_compressed_texture_etc", 0x9270, 0x9279], ["WEBGL_compressed_texture_astc", 0x93b0, 0x93bd], ["WEBGL_compressed_texture_astc", 0x93d0, 0x93dd],
];

class LiveDevice {
  static create() {
    const gl = new OffscreenCanvas(1, 1).getContext("webgl2", { antialias: false, depth: false, alpha: false });
    return gl ? new LiveDevice(gl) : null;
  }

  constructor(gl) {
    this.gl = gl;
    this.anisotropy = gl.getExtension("EXT_texture_filter_anisotropic");
    this.maxAnisotropy = this.anisotropy ? gl.getParameter(this.anisotropy.MAX_TEXTURE_MAX_ANISOTROPY_EXT) : 1;
    this.programs = new Map();
    this.numbers = gl.createBuffer();
    this.sampler = gl.createSampler();
    const [head, vertex, plane, cube] = jsonOf("shaders");
    this.sources = { vertex: head + vertex, plane: head + readingHead + plane + writingTail, cube: head + readingHead + cube + writingTail };
  }

  program(isCube) {
    const gl = this.gl;
    if (this.programs.has(isCube)) return this.programs.get(isCube);
    const program = gl.createProgram();
    for (const [type, source] of [[gl.VERTEX_SHADER, this.sources.vertex], [gl.FRAGMENT_SHADER, isCube ? this.sources.cube : this.sources.plane]]) {
      const shader = gl.createShader(type);
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      gl.attachShader(program, shader);
    }
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getAttachedShaders(program).map((shader) => gl.getShaderInfoLog(shader)).join("\n"));
    gl.uniformBlockBinding(program, gl.getUniformBlockIndex(program, "Numbers"), 0);
    this.programs.set(isCube, program);
    return program;
  }

  /** The number of the block format, if the browser takes it. */
  blockFormat(facts) {
    const known = blockExtensions.find(([, first, last]) => facts.is_block && facts.gl_format >= first && facts.gl_format <= last);
    return known && this.gl.getExtension(known[0]) ? facts.gl_format : 0;
  }

  /** Uploads the levels that the page holds of one layer or slice. */
  async upload(texels, place) {
    const gl = this.gl, { facts } = texels;
    const target = facts.faces === 6 ? gl.TEXTURE_CUBE_MAP : gl.TEXTURE_2D;
    const wanted = this.blockFormat(facts);
    const isBlocks = wanted !== 0 && (await texels.blocks(texels.first, place)) !== null;
    const surfaces = [];
    for (let level = texels.first; level < texels.levels; ++level)
      for (let face = 0; face < facts.faces; ++face)
        surfaces.push({ level, face, ...(isBlocks ? { blocks: await texels.blocks(level, { ...place, face }), ...texels.sizeOf(level) } : await texels.surface(level, { ...place, face })) });
    const texture = gl.createTexture();
    gl.bindTexture(target, texture);
    const format = isBlocks ? wanted : facts.shown.is_light ? gl.RGBA16F : facts.decodes_srgb ? gl.SRGB8_ALPHA8 : gl.RGBA8;
    gl.texStorage2D(target, texels.packed.length, format, surfaces[0].width, surfaces[0].height);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    for (const { level, face, width, height, bytes, halves, blocks } of surfaces) {
      const side = facts.faces === 6 ? gl.TEXTURE_CUBE_MAP_POSITIVE_X + face : gl.TEXTURE_2D;
      const at = level - texels.first;
      if (blocks) gl.compressedTexSubImage2D(side, at, 0, 0, width, height, format, blocks);
      else gl.texSubImage2D(side, at, 0, 0, width, height, gl.RGBA, halves ? gl.HALF_FLOAT : gl.UNSIGNED_BYTE, halves ?? new Uint8Array(bytes.buffer));
    }
    return { texture, target, isCube: facts.faces === 6, levels: texels.packed.length, first: texels.first, isBlocks };
  }

  free(uploaded) {
    this.gl.deleteTexture(uploaded.texture);
  }

  setSampler({ mag, min, mip, wrap, aniso, lod }, uploaded) {
    const gl = this.gl;
    const set = (name, value) => gl.samplerParameteri(this.sampler, name, value);
    const wraps = { repeat: gl.REPEAT, mirror: gl.MIRRORED_REPEAT };
    const minFilters = {
      none: { nearest: gl.NEAREST, linear: gl.LINEAR },
      nearest: { nearest: gl.NEAREST_MIPMAP_NEAREST, linear: gl.LINEAR_MIPMAP_NEAREST },
      linear: { nearest: gl.NEAREST_MIPMAP_LINEAR, linear: gl.LINEAR_MIPMAP_LINEAR },
    };
    set(gl.TEXTURE_MAG_FILTER, mag === "nearest" ? gl.NEAREST : gl.LINEAR);
    set(gl.TEXTURE_MIN_FILTER, minFilters[mip][min]);
    set(gl.TEXTURE_WRAP_S, wraps[wrap[0]] ?? gl.CLAMP_TO_EDGE);
    set(gl.TEXTURE_WRAP_T, wraps[wrap[1]] ?? gl.CLAMP_TO_EDGE);
    // Levels that the page does not hold are below 0 here.
    gl.samplerParameterf(this.sampler, gl.TEXTURE_MIN_LOD, lod[0] - uploaded.first);
    gl.samplerParameterf(this.sampler, gl.TEXTURE_MAX_LOD, lod[1] - uploaded.first);
    if (this.anisotropy) gl.samplerParameterf(this.sampler, this.anisotropy.TEXTURE_MAX_ANISOTROPY_EXT, Math.min(aniso, this.maxAnisotropy));
  }

  /** Draws the scene on a canvas of the page. */
  draw(uploaded, scene, sampler, canvas) {
    const gl = this.gl, { width, height } = scene;
    const program = this.program(uploaded.isCube);
    if (gl.canvas.width !== width || gl.canvas.height !== height) Object.assign(gl.canvas, { width, height });
    gl.viewport(0, 0, width, height);
    gl.useProgram(program);
    gl.uniform1f(gl.getUniformLocation(program, "level_bias"), sampler.bias);
    gl.uniform2f(gl.getUniformLocation(program, "mirrors_once"), ...sampler.wrap.slice(0, 2).map((wrap) => Number(wrap === "mirror-once")));
    gl.bindBuffer(gl.UNIFORM_BUFFER, this.numbers);
    gl.bufferData(gl.UNIFORM_BUFFER, new Float32Array(scene.numbers), gl.DYNAMIC_DRAW);
    gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, this.numbers);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(uploaded.target, uploaded.texture);
    this.setSampler(sampler, uploaded);
    gl.bindSampler(0, this.sampler);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    if (canvas.width !== width || canvas.height !== height) Object.assign(canvas, { width, height });
    // The library's row 0 is the top one, which OpenGL's is not.
    const context = canvas.getContext("2d");
    context.setTransform(1, 0, 0, -1, 0, height);
    context.drawImage(gl.canvas, 0, 0);
  }
}

/** The numbers of a cube's scene, turned to the right and up (degrees) and brighter by stops. */
function turned(scene, yaw, pitch, stops) {
  const [y, p] = [yaw, pitch].map((degrees) => (degrees * Math.PI) / 180);
  const ahead = [Math.sin(y) * Math.cos(p), Math.sin(p), Math.cos(y) * Math.cos(p)];
  const right = [Math.cos(y), 0, -Math.sin(y)];
  const up = [ahead[1] * right[2] - ahead[2] * right[1], ahead[2] * right[0] - ahead[0] * right[2], ahead[0] * right[1] - ahead[1] * right[0]];
  const numbers = [...scene.numbers];
  const turn = (x, y_, z) => right.map((_, axis) => right[axis] * x + up[axis] * y_ + ahead[axis] * z);
  // The three rows take a pixel to a direction: their columns turn, as the ball's middle does.
  for (let column = 0; column < 3; ++column)
    turn(scene.numbers[column], scene.numbers[4 + column], scene.numbers[8 + column]).forEach((value, row) => (numbers[4 * row + column] = value));
  turn(scene.numbers[12], scene.numbers[13], scene.numbers[14]).forEach((value, axis) => (numbers[12 + axis] = value));
  numbers[18] = scene.numbers[18] * 2 ** stops;
  return { ...scene, numbers };
}
