import { LatticeError, type Finding } from "./errors.js";
import { Module, type ModuleSource, type Place } from "./module.js";
import { Texture, type KeptTexture, type Pixels, type Role } from "./texture.js";

export interface ReadOptions {
  /** Decides how colours are encoded where the file does not say it. */
  role?: Role;
  transfer?: "srgb" | "linear";
}

/** How a picture becomes a texture; by default its role decides. */
export interface BakeOptions extends ReadOptions {
  /** A format, or a family of blocks: "bc", "etc", "astc". */
  as?: string;
  bits_per_texel?: number;
  /** Of block encoders: 0 (fastest) to 10. */
  effort?: number;
  rate_distortion?: number;
  /** A full chain when left out. */
  levels?: number;
  max_side?: number;
  first_level?: number;
  /** The text form of a kernel: "kaiser", "box" ... */
  filter?: string;
  edge?: string;
  origin?: "top" | "bottom";
  sampler?: string;
  coverage?: number;
  sharpen?: number;
  dither?: boolean;
}

export interface CubeOptions extends Pick<BakeOptions, "role" | "as" | "bits_per_texel" | "effort" | "levels" | "sampler"> {
  face_size?: number;
  prefilter?: "specular" | "diffuse";
  samples?: number;
}

/**
 * A picture by its bytes, or as a page has it. An ImageBitmap comes through a canvas, which keeps colours multiplied by their
 * alpha in 8 bits: where alpha is small, colours are coarse, and where it is 0 they are gone. Give the file where that matters.
 */
export type PictureSource = Uint8Array | ArrayBuffer | Blob | ImageData | ImageBitmap;

export interface DrawOptions {
  scene: "floor" | "panel" | "sky" | "ball";
  width?: number;
  height?: number;
  sampler?: string;
  repeats?: number;
  tiles_u?: number;
  tiles_v?: number;
  turn?: number;
  tilt?: number;
  aspect?: number;
  yaw?: number;
  pitch?: number;
  stops?: number;
}

/** The sampler in the words of the APIs, fitted to a device where one was named. */
export interface SamplerWords {
  text: string;
  gl: {
    mag_filter: number; min_filter: number; wrap: [number, number, number]; compare_mode: number; compare_func: number;
    min_lod: number; max_lod: number; max_anisotropy: number;
  };
  webgpu: {
    magFilter: "nearest" | "linear"; minFilter: "nearest" | "linear"; mipmapFilter: "nearest" | "linear";
    addressModeU: "repeat" | "mirror-repeat" | "clamp-to-edge"; addressModeV: "repeat" | "mirror-repeat" | "clamp-to-edge";
    addressModeW: "repeat" | "mirror-repeat" | "clamp-to-edge";
    lodMinClamp: number; lodMaxClamp: number; maxAnisotropy: number; compare?: string;
  };
  findings: Finding[];
}

/** A row of the table of formats. */
export interface FormatInfo {
  name: string;
  /** The number of the VkFormat. */
  vk: number;
  /** Width, height and bytes of a block; of a texel where it is 1 x 1. */
  block: [number, number, number];
  /** Internal format, format and type; zeros where OpenGL has none. */
  gl: [number, number, number];
  /** GPUTextureFormat; empty where WebGPU has none. */
  webgpu: string;
  channels: number;
  is_float: boolean;
  transfer: "srgb" | "linear";
}

interface KeptPicture {
  picture: number;
}

export async function bytesOf(source: Uint8Array | ArrayBuffer | Blob): Promise<Uint8Array> {
  if (source instanceof Uint8Array) return source;
  if (source instanceof ArrayBuffer) return new Uint8Array(source);
  return new Uint8Array(await source.arrayBuffer());
}

function pixelsOf(bitmap: ImageBitmap): ImageData {
  const { width, height } = bitmap;
  const context = new OffscreenCanvas(width, height).getContext("2d", { colorSpace: "srgb", willReadFrequently: true });
  if (!context) throw new LatticeError("device", `the browser has no canvas of ${width} x ${height}`);
  context.drawImage(bitmap, 0, 0);
  return context.getImageData(0, 0, width, height);
}

/** The core: reads texture files and plans uploads; with the larger module it reads pictures and bakes. */
export class Library {
  readonly module: Module;
  private table: Map<string, FormatInfo> | undefined;

  private constructor(module: Module) {
    this.module = module;
  }

  /** Loads the module that reads: some 280 KB gzipped. */
  static async reading(source: ModuleSource = new URL("reading.wasm", import.meta.url)): Promise<Library> {
    return new Library(await Module.load(source));
  }

  /** Loads the module that bakes as well: some 1,050 KB gzipped. */
  static async baking(source: ModuleSource = new URL("baking.wasm", import.meta.url)): Promise<Library> {
    return new Library(await Module.load(source));
  }

  /** The table of formats by their names. */
  get formats(): Map<string, FormatInfo> {
    if (!this.table) {
      const { formats } = this.module.call<{ formats: FormatInfo[] }>("formats");
      this.table = new Map(formats.map((format) => [format.name, format]));
    }
    return this.table;
  }

  format(name: string): FormatInfo {
    const found = this.formats.get(name);
    if (!found) throw new LatticeError("usage", `there is no format '${name}'`);
    return found;
  }

  /** A KTX 2.0, KTX 1 or DDS file. */
  readTexture(bytes: Uint8Array, options: ReadOptions = {}): Texture {
    return new Texture(this.module, this.module.callWith<KeptTexture>("read_texture", bytes, options));
  }

  /** A texture of texels that the page has: all levels one after the other, each by layer, face and slice, without gaps. */
  textureOf(
    texels: Uint8Array,
    shape: { format: string; width: number; height?: number; depth?: number; levels?: number; layers?: number; faces?: number; is_array?: boolean },
  ): Texture {
    return new Texture(this.module, this.module.callWith<KeptTexture>("make_texture", texels, shape));
  }

  /** A surface as a shader reads its texels: linear RGBA in floats, row by row, without the swizzle. */
  floats(texture: Texture, place: { level?: number; layer?: number; face?: number; slice?: number } = {}): Float32Array {
    const made = this.module.call<{ object: number; memory: Place }>("floats", { texture: texture.object, ...place });
    const bytes = this.module.copyOut(made.memory);
    this.module.free(made.object);
    return new Float32Array(bytes.buffer, 0, bytes.byteLength / 4);
  }

  /** Whether bytes begin like a texture file. */
  isTexture(bytes: Uint8Array): boolean {
    return this.module.callWith<{ is_texture: boolean }>("recognise", bytes.subarray(0, 128)).is_texture;
  }

  /** A sampler's text form in the words of the APIs. */
  sampler(text: string, profile?: number): SamplerWords {
    return this.module.call("sampler", { sampler: text, ...(profile === undefined ? {} : { profile }) });
  }

  /** Makes a texture of a picture: PNG, JPEG, WebP, OpenEXR and all that the library reads, or pixels of the page's. */
  async bake(source: PictureSource, options: BakeOptions = {}): Promise<Texture> {
    const picture = await this.picture(source, options);
    try {
      return new Texture(this.module, this.module.call("bake", { picture, ...options }));
    } finally {
      this.module.free(picture);
    }
  }

  /** Makes a cube of one picture with a layout, or of six faces, which names or edges put in order. */
  async cube(sources: { source: PictureSource; name?: string }[], options: CubeOptions = {}): Promise<Texture> {
    const pictures: { picture: number; name: string }[] = [];
    try {
      for (const { source, name } of sources)
        pictures.push({ picture: await this.picture(source, options.role ? { role: options.role } : {}), name: name ?? "" });
      return new Texture(this.module, this.module.call("cube", { pictures, ...options }));
    } finally {
      for (const { picture } of pictures) this.module.free(picture);
    }
  }

  /** Makes a texture of another one: other formats, new levels. */
  rebake(texture: Texture, options: BakeOptions & { new_levels?: boolean } = {}): Texture {
    return new Texture(this.module, this.module.call("rebake", { texture: texture.object, ...options }));
  }

  /** A surface of a texture, for a canvas. */
  pixels(texture: Texture, place: { level?: number; layer?: number; face?: number } = {}): Pixels {
    return this.takePixels(this.module.call("pixels", { texture: texture.object, ...place }));
  }

  /** What a device is to show, drawn by the sampler of the core. */
  draw(texture: Texture, options: DrawOptions): Pixels {
    return this.takePixels(this.module.call("draw", { texture: texture.object, ...options }));
  }

  private takePixels(made: { width: number; height: number; object: number; memory: Place }): Pixels {
    const data = new Uint8ClampedArray(this.module.copyOut(made.memory).buffer as ArrayBuffer);
    this.module.free(made.object);
    return { width: made.width, height: made.height, data };
  }

  private async picture(source: PictureSource, options: ReadOptions): Promise<number> {
    const image = typeof ImageBitmap !== "undefined" && source instanceof ImageBitmap ? pixelsOf(source) : source;
    if (typeof ImageData !== "undefined" && image instanceof ImageData) {
      const bytes = new Uint8Array(image.data.buffer, image.data.byteOffset, image.data.byteLength);
      return this.module.callWith<KeptPicture>("picture_of_pixels", bytes, { width: image.width, height: image.height }).picture;
    }
    const bytes = await bytesOf(source as Uint8Array | ArrayBuffer | Blob);
    const asked: ReadOptions = {};
    if (options.role) asked.role = options.role;
    if (options.transfer) asked.transfer = options.transfer;
    return this.module.callWith<KeptPicture>("read_picture", bytes, asked).picture;
  }
}
