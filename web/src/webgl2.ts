import { LatticeError, type Finding } from "./errors.js";
import type { FormatInfo, Library, SamplerWords } from "./library.js";
import type { Shape } from "./texture.js";
import { TextureDevice, regionsOf, type DeviceTexture, type Region, type UploadSource, type Uploading } from "./upload.js";

type GL = WebGL2RenderingContext;

/** Extensions that formats and samplers come by, and what the core calls them. */
const switches: [extension: string, name: string][] = [
  ["WEBGL_compressed_texture_s3tc", "s3tc"],
  ["WEBGL_compressed_texture_s3tc_srgb", "s3tc-srgb"],
  ["EXT_texture_compression_rgtc", "rgtc"],
  ["EXT_texture_compression_bptc", "bptc"],
  ["WEBGL_compressed_texture_etc", "etc"],
  ["WEBGL_compressed_texture_astc", "astc"],
  ["EXT_texture_norm16", "norm16"],
  ["OES_texture_float_linear", "float-linear"],
];

/** State of the program's that an upload changes and puts back. */
const pixelStore = [
  "UNPACK_ALIGNMENT", "UNPACK_ROW_LENGTH", "UNPACK_IMAGE_HEIGHT", "UNPACK_SKIP_PIXELS", "UNPACK_SKIP_ROWS", "UNPACK_SKIP_IMAGES",
  "UNPACK_FLIP_Y_WEBGL", "UNPACK_PREMULTIPLY_ALPHA_WEBGL", "UNPACK_COLORSPACE_CONVERSION_WEBGL",
] as const;

/** What samplers are shared by. */
interface SharedSampler {
  sampler: WebGLSampler;
  users: number;
}

/** A texture on a context, with its sampler. */
export class WebGlTexture implements DeviceTexture {
  readonly texture: WebGLTexture;
  readonly sampler: WebGLSampler;
  /** TEXTURE_2D, TEXTURE_CUBE_MAP, TEXTURE_2D_ARRAY or TEXTURE_3D. */
  readonly target: number;
  /** On the device. */
  readonly shape: Shape;
  readonly samplerWords: SamplerWords;
  readonly findings: Finding[];
  private readonly device: WebGlDevice;

  /** @internal */
  constructor(device: WebGlDevice, texture: WebGLTexture, sampler: WebGLSampler, target: number, source: UploadSource) {
    this.device = device;
    this.texture = texture;
    this.sampler = sampler;
    this.target = target;
    this.shape = source.plan.shape;
    this.samplerWords = source.sampler;
    this.findings = source.findings;
  }

  /** Binds texture and sampler, its own or another one, to a unit; the active unit stays. */
  bind(unit: number, sampler: WebGLSampler = this.sampler): void {
    const gl = this.device.gl;
    const active = gl.getParameter(gl.ACTIVE_TEXTURE) as number;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(this.target, this.texture);
    gl.activeTexture(active);
    gl.bindSampler(unit, sampler);
  }

  /** Deletes the texture; the sampler goes with the last texture that uses it. */
  free(): void {
    this.device.gl.deleteTexture(this.texture);
    this.device.releaseSampler(this.samplerWords.text);
  }

  [Symbol.dispose](): void {
    this.free();
  }
}

/** An upload to a context: its texture, and the batches that are left. */
class WebGlUploading implements Uploading<WebGlTexture> {
  private batch = 0;
  private texture: WebGLTexture | null = null;
  private readonly device: WebGlDevice;
  private readonly source: UploadSource;
  private readonly label: string;

  constructor(device: WebGlDevice, source: UploadSource, label: string) {
    this.device = device;
    this.source = source;
    this.label = label;
    device.keepingState(() => {
      drainErrors(device.gl);
      this.texture = device.allocate(source.plan);
    });
    this.check();
  }

  step(): boolean {
    const { plan } = this.source;
    if (!this.texture || this.batch >= plan.batches.length) return false;
    const texture = this.texture;
    this.device.keepingState(() => {
      drainErrors(this.device.gl);
      this.device.fill(texture, this.source, this.batch++);
    });
    this.check();
    return this.batch < plan.batches.length;
  }

  finish(): WebGlTexture {
    if (!this.texture || this.batch < this.source.plan.batches.length) throw new LatticeError("usage", "the upload has batches left", this.label);
    const texture = this.texture;
    this.texture = null;
    return new WebGlTexture(this.device, texture, this.device.samplerOf(this.source.sampler), this.device.targetOf(this.source.plan.shape), this.source);
  }

  free(): void {
    this.device.gl.deleteTexture(this.texture);
    this.texture = null;
  }

  private check(): void {
    const gl = this.device.gl;
    const error = gl.getError();
    if (error === gl.NO_ERROR) return;
    this.free();
    if (error === gl.OUT_OF_MEMORY) throw new LatticeError("memory", "the context has no memory left for the texture", this.label);
    throw new LatticeError("device", `WebGL refuses the texture (error ${error})`, this.label);
  }
}

/** Uploads to a context of the page's: formats by its extensions. Bindings, unpack state and the active unit stay as they were. */
export class WebGlDevice extends TextureDevice<WebGlTexture> {
  readonly gl: GL;
  private readonly anisotropy: EXT_texture_filter_anisotropic | null;
  private readonly samplers = new Map<string, SharedSampler>();

  constructor(library: Library, gl: GL) {
    const anisotropy = gl.getExtension("EXT_texture_filter_anisotropic");
    super(library, {
      base: "webgl2",
      has: switches.filter(([extension]) => gl.getExtension(extension) !== null).map(([, name]) => name),
      max_2d_side: gl.getParameter(gl.MAX_TEXTURE_SIZE),
      max_3d_side: gl.getParameter(gl.MAX_3D_TEXTURE_SIZE),
      max_cube_side: gl.getParameter(gl.MAX_CUBE_MAP_TEXTURE_SIZE),
      max_layers: gl.getParameter(gl.MAX_ARRAY_TEXTURE_LAYERS),
      max_anisotropy: anisotropy ? gl.getParameter(anisotropy.MAX_TEXTURE_MAX_ANISOTROPY_EXT) : 1,
    });
    this.gl = gl;
    this.anisotropy = anisotropy;
  }

  override begin(source: UploadSource, label = ""): Uploading<WebGlTexture> {
    return new WebGlUploading(this, source, label);
  }

  /** A sampler by its text form, fitted to the device, for a texture that is sampled in several ways. To be released by its text. */
  sampler(text: string): { sampler: WebGLSampler; words: SamplerWords } {
    const words = this.library.sampler(text, this.profile);
    return { sampler: this.samplerOf(words), words };
  }

  /** Ends a use of a sampler; `text` is that of its words. */
  releaseSampler(text: string): void {
    const shared = this.samplers.get(text);
    if (!shared || --shared.users > 0) return;
    this.gl.deleteSampler(shared.sampler);
    this.samplers.delete(text);
  }

  /** The number of sampler objects in use. */
  get samplerCount(): number {
    return this.samplers.size;
  }

  /** @internal A texture with storage for all levels, bound. */
  allocate({ shape, levels }: UploadSource["plan"]): WebGLTexture {
    const gl = this.gl;
    const target = this.targetOf(shape);
    const texture = gl.createTexture();
    if (!texture) throw new LatticeError("device", "the context makes no texture: it is lost");
    gl.bindTexture(target, texture);
    const [internal] = this.library.format(shape.format).gl;
    if (target === gl.TEXTURE_2D || target === gl.TEXTURE_CUBE_MAP) gl.texStorage2D(target, shape.levels, internal, shape.width, shape.height);
    else gl.texStorage3D(target, shape.levels, internal, shape.width, shape.height, shape.dimensions === 3 ? shape.depth : shape.layers * shape.faces);
    gl.texParameteri(target, gl.TEXTURE_BASE_LEVEL, levels[0]);
    gl.texParameteri(target, gl.TEXTURE_MAX_LEVEL, levels[0] + levels[1] - 1);
    return texture;
  }

  /** @internal Carries a batch out. */
  fill(texture: WebGLTexture, source: UploadSource, batch: number): void {
    const { shape } = source.plan;
    const target = this.targetOf(shape);
    const format = this.formatOf(source);
    this.gl.bindTexture(target, texture);
    const staging = source.staging(batch);
    for (const region of regionsOf(source.plan, batch)) this.fillRegion(target, shape, format, region, staging);
  }

  /** @internal */
  targetOf(shape: Shape): number {
    const gl = this.gl;
    if (shape.dimensions === 3) return gl.TEXTURE_3D;
    if (shape.is_array) return gl.TEXTURE_2D_ARRAY;
    return shape.faces === 6 ? gl.TEXTURE_CUBE_MAP : gl.TEXTURE_2D;
  }

  private fillRegion(target: number, shape: Shape, format: FormatInfo, region: Region, staging: Uint8Array): void {
    const gl = this.gl;
    const [internal, external, type] = format.gl;
    const [blockWidth, blockHeight, blockBytes] = format.block;
    const isBlock = blockWidth * blockHeight > 1;
    const rows = Math.ceil(region.height / blockHeight);
    const length = isBlock
      ? Math.ceil(region.width / blockWidth) * blockBytes * rows * region.depth
      : region.slice_pitch * region.depth;
    const bytes = staging.subarray(region.offset, region.offset + length);
    const isFlat = target === gl.TEXTURE_2D || target === gl.TEXTURE_CUBE_MAP;
    const image = target === gl.TEXTURE_CUBE_MAP ? gl.TEXTURE_CUBE_MAP_POSITIVE_X + region.face : target;
    const z = shape.dimensions === 3 ? region.z : region.layer * shape.faces + region.face;
    if (isBlock) {
      if (isFlat) gl.compressedTexSubImage2D(image, region.level, region.x, region.y, region.width, region.height, internal, bytes);
      else gl.compressedTexSubImage3D(image, region.level, region.x, region.y, z, region.width, region.height, region.depth, internal, bytes);
      return;
    }
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    gl.pixelStorei(gl.UNPACK_ROW_LENGTH, region.row_pitch % blockBytes === 0 ? region.row_pitch / blockBytes : 0);
    gl.pixelStorei(gl.UNPACK_IMAGE_HEIGHT, region.slice_pitch / region.row_pitch);
    if (region.row_pitch % blockBytes !== 0) gl.pixelStorei(gl.UNPACK_ALIGNMENT, 4);
    const texels = typedFor(gl, type, bytes);
    if (isFlat) gl.texSubImage2D(image, region.level, region.x, region.y, region.width, region.height, external, type, texels);
    else gl.texSubImage3D(image, region.level, region.x, region.y, z, region.width, region.height, region.depth, external, type, texels);
  }

  /** @internal */
  samplerOf(words: SamplerWords): WebGLSampler {
    const known = this.samplers.get(words.text);
    if (known) {
      ++known.users;
      return known.sampler;
    }
    const gl = this.gl;
    const sampler = gl.createSampler();
    if (!sampler) throw new LatticeError("device", "the context makes no sampler: it is lost");
    gl.samplerParameteri(sampler, gl.TEXTURE_MAG_FILTER, words.gl.mag_filter);
    gl.samplerParameteri(sampler, gl.TEXTURE_MIN_FILTER, words.gl.min_filter);
    [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T, gl.TEXTURE_WRAP_R].forEach((name, axis) =>
      gl.samplerParameteri(sampler, name, words.gl.wrap[axis]!));
    gl.samplerParameterf(sampler, gl.TEXTURE_MIN_LOD, words.gl.min_lod);
    gl.samplerParameterf(sampler, gl.TEXTURE_MAX_LOD, words.gl.max_lod);
    gl.samplerParameteri(sampler, gl.TEXTURE_COMPARE_MODE, words.gl.compare_mode);
    if (words.gl.compare_mode !== gl.NONE) gl.samplerParameteri(sampler, gl.TEXTURE_COMPARE_FUNC, words.gl.compare_func);
    if (this.anisotropy) gl.samplerParameterf(sampler, this.anisotropy.TEXTURE_MAX_ANISOTROPY_EXT, words.gl.max_anisotropy);
    this.samplers.set(words.text, { sampler, users: 1 });
    return sampler;
  }

  /** @internal Bindings and unpack state are put back after `work`. */
  keepingState<Value>(work: () => Value): Value {
    const gl = this.gl;
    const store = pixelStore.map((name) => [gl[name], gl.getParameter(gl[name]) as number | boolean] as const);
    const buffer = gl.getParameter(gl.PIXEL_UNPACK_BUFFER_BINDING) as WebGLBuffer | null;
    const bound = ([
      [gl.TEXTURE_2D, gl.TEXTURE_BINDING_2D], [gl.TEXTURE_CUBE_MAP, gl.TEXTURE_BINDING_CUBE_MAP],
      [gl.TEXTURE_2D_ARRAY, gl.TEXTURE_BINDING_2D_ARRAY], [gl.TEXTURE_3D, gl.TEXTURE_BINDING_3D],
    ] as const).map(([target, binding]) => [target, gl.getParameter(binding) as WebGLTexture | null] as const);
    gl.bindBuffer(gl.PIXEL_UNPACK_BUFFER, null);
    for (const [name] of store) gl.pixelStorei(name, name === gl.UNPACK_ALIGNMENT ? 1 : 0);
    try {
      return work();
    } finally {
      for (const [name, value] of store) gl.pixelStorei(name, value as number);
      for (const [target, texture] of bound) gl.bindTexture(target, texture);
      gl.bindBuffer(gl.PIXEL_UNPACK_BUFFER, buffer);
    }
  }
}

/** An error of the program's own must not be taken for one of the upload's. */
function drainErrors(gl: GL): void {
  const most = 16;
  for (let i = 0; i < most && gl.getError() !== gl.NO_ERROR; ++i);
}

/** Texels as the array that WebGL wants for their type. */
function typedFor(gl: GL, type: number, bytes: Uint8Array): ArrayBufferView {
  const of = <View>(Kind: new (buffer: ArrayBufferLike, offset: number, length: number) => View, size: number): View => {
    // Texels of a region begin wherever the plan puts them.
    const whole = bytes.byteOffset % size === 0 ? bytes : bytes.slice();
    return new Kind(whole.buffer, whole.byteOffset, Math.floor(whole.byteLength / size));
  };
  switch (type) {
    case gl.BYTE: return of(Int8Array, 1);
    case gl.UNSIGNED_SHORT: case gl.HALF_FLOAT: case gl.UNSIGNED_SHORT_5_6_5: case gl.UNSIGNED_SHORT_4_4_4_4: case gl.UNSIGNED_SHORT_5_5_5_1:
      return of(Uint16Array, 2);
    case gl.SHORT: return of(Int16Array, 2);
    case gl.FLOAT: return of(Float32Array, 4);
    case gl.UNSIGNED_INT_2_10_10_10_REV: case gl.UNSIGNED_INT_10F_11F_11F_REV: case gl.UNSIGNED_INT_5_9_9_9_REV: return of(Uint32Array, 4);
    default: return bytes;
  }
}
