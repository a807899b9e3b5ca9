import type { DrawOptions } from "./library.js";
import type { WebGlDevice, WebGlTexture } from "./webgl2.js";

export interface SceneNumbers {
  is_cube: boolean;
  width: number;
  height: number;
  /** Vectors of four floats, as the shaders' uniform block has them. */
  numbers: number[];
}

/** Draws the scenes of the core on a context, with the core's own shaders; needs the module that bakes. */
export class WebGlScenes {
  private readonly device: WebGlDevice;
  private readonly programs = new Map<boolean, WebGLProgram>();
  private readonly block: WebGLBuffer;

  constructor(device: WebGlDevice) {
    this.device = device;
    this.block = device.gl.createBuffer()!;
  }

  /**
   * Draws into a texture of its own in sRGB and gives its pixels, the top row first: what `Library.draw` computes. Program,
   * framebuffer, viewport and unit 0 are left changed.
   */
  draw(texture: WebGlTexture, options: DrawOptions & { alpha?: "straight" | "premultiplied" }): { width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> } {
    const gl = this.device.gl;
    const scene = this.device.library.module.call<SceneNumbers>("scene", options);
    const program = this.programFor(scene.is_cube);
    const target = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, target);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.SRGB8_ALPHA8, scene.width, scene.height);
    gl.bindTexture(gl.TEXTURE_2D, null);
    const framebuffer = gl.createFramebuffer();
    gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
    gl.viewport(0, 0, scene.width, scene.height);
    gl.useProgram(program);
    gl.bindBuffer(gl.UNIFORM_BUFFER, this.block);
    gl.bufferData(gl.UNIFORM_BUFFER, new Float32Array(scene.numbers), gl.DYNAMIC_DRAW);
    gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, this.block);
    texture.bind(0);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const data = new Uint8ClampedArray(scene.width * scene.height * 4);
    gl.pixelStorei(gl.PACK_ALIGNMENT, 1);
    gl.readPixels(0, 0, scene.width, scene.height, gl.RGBA, gl.UNSIGNED_BYTE, data);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.deleteFramebuffer(framebuffer);
    gl.deleteTexture(target);
    return { width: scene.width, height: scene.height, data };
  }

  free(): void {
    for (const program of this.programs.values()) this.device.gl.deleteProgram(program);
    this.device.gl.deleteBuffer(this.block);
  }

  private programFor(isCube: boolean): WebGLProgram {
    const known = this.programs.get(isCube);
    if (known) return known;
    const gl = this.device.gl;
    const sources = this.device.library.module.call<{ vertex: string; plane: string; cube: string }>("shaders");
    const program = gl.createProgram();
    for (const [type, source] of [[gl.VERTEX_SHADER, sources.vertex], [gl.FRAGMENT_SHADER, isCube ? sources.cube : sources.plane]] as const) {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      gl.attachShader(program, shader);
    }
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? "the scene's program does not link");
    gl.useProgram(program);
    gl.uniformBlockBinding(program, gl.getUniformBlockIndex(program, "Numbers"), 0);
    gl.uniform1i(gl.getUniformLocation(program, isCube ? "sky" : "picture"), 0);
    this.programs.set(isCube, program);
    return program;
  }
}
