import type { Finding } from "./errors.js";
import type { Module, Place } from "./module.js";

export type Role = "color" | "normal" | "mask" | "data" | "hdr" | "height";

export interface Shape {
  /** The name in the table of formats: "rgba8-srgb". */
  format: string;
  width: number;
  height: number;
  depth: number;
  levels: number;
  layers: number;
  /** 6 for cubes: +X, -X, +Y, -Y, +Z, -Z. */
  faces: number;
  is_array: boolean;
  dimensions: 1 | 2 | 3;
  /** Of all levels, and of each. */
  bytes: number;
  level_bytes: number[];
}

export interface Metadata {
  transfer: "srgb" | "linear";
  alpha: "straight" | "premultiplied" | "data" | "opaque";
  origin: "top" | "bottom";
  /** "rgba" where channels stay where they are. */
  swizzle: string;
  /** The text form of the sampler that the texture was made for. */
  sampler?: string;
  key_values: Record<string, string>;
}

export interface KeptTexture {
  texture: number;
  shape: Shape;
  metadata: Metadata;
  findings?: Finding[];
}

/** Pixels for a canvas: RGBA of 8 bits, the top row first. */
export interface Pixels {
  width: number;
  height: number;
  data: Uint8ClampedArray<ArrayBuffer>;
}

/** A texture in the memory of a module. Free it, or let `using` do so. */
export class Texture {
  readonly module: Module;
  readonly object: number;
  readonly shape: Shape;
  readonly metadata: Metadata;
  /** What was noticed when it was made. */
  readonly findings: Finding[];

  constructor(module: Module, kept: KeptTexture) {
    this.module = module;
    this.object = kept.texture;
    this.shape = kept.shape;
    this.metadata = kept.metadata;
    this.findings = kept.findings ?? [];
  }

  /** A copy of a level's texels, by layer, face and slice; row 0 is the top row. */
  texels(level = 0): Uint8Array {
    const { memory } = this.module.call<{ memory: Place }>("texels", { texture: this.object, level });
    return this.module.copyOut(memory);
  }

  /** The plain texels of a texture of blocks; a copy of any other. */
  decoded(): Texture {
    return new Texture(this.module, this.module.call("decode", { texture: this.object }));
  }

  /** The same without its `count` largest levels. */
  withoutTopLevels(count: number): Texture {
    return new Texture(this.module, this.module.call("without_top_levels", { texture: this.object, levels: count }));
  }

  /** A texture file: "ktx2" or "dds". */
  file(as: "ktx2" | "dds", options: { supercompression?: "none" | "zstd" | "zlib"; compression_level?: number } = {}): Uint8Array {
    const made = this.module.call<{ object: number; memory: Place }>("write_texture", { texture: this.object, as, ...options });
    const bytes = this.module.copyOut(made.memory);
    this.module.free(made.object);
    return bytes;
  }

  free(): void {
    this.module.free(this.object);
  }

  [Symbol.dispose](): void {
    this.free();
  }
}
