import { LatticeError, type Finding } from "./errors.js";
import type { Library } from "./library.js";
import type { KeptTexture, TextureKeeper } from "./keeper.js";
import type { Place } from "./module.js";
import type { FileSource } from "./pool.js";
import { fetchedRanges } from "./stream.js";
import type { Role } from "./texture.js";
import type { DeviceTexture } from "./upload.js";

export interface ModelImage {
  name: string;
  source: "file" | "data URI" | "buffer view" | "embedded" | "raw pixels";
  /** Of images in files of their own, as in the model. */
  uri: string;
  bytes: number;
}

/** A texture to make: one image in one role, however many materials show it. */
export interface NeededTexture {
  /** Null where the model names none: a placeholder stands for it. */
  image: number | null;
  role: Role;
  /** Of masks, whose levels keep their coverage. */
  cutoff?: number;
  label: string;
}

export interface ModelBinding {
  /** "base color", "normal" ... */
  slot: string;
  /** Of the model's list of textures. */
  texture: number;
  /** The text form: each binding has its own. */
  sampler: string;
  coordinate_set: number;
  /** u' = m[0] u + m[1] v + m[2], v' = m[3] u + m[4] v + m[5] */
  matrix: [number, number, number, number, number, number];
  /** Scale of a normal map, strength of an occlusion map. */
  factor: number;
}

export interface ModelMaterial {
  name: string;
  base_color: [number, number, number, number];
  metallic: number;
  roughness: number;
  emissive: [number, number, number];
  alpha: "opaque" | "mask" | "blend";
  cutoff: number;
  is_two_sided: boolean;
  is_unlit: boolean;
  bindings: ModelBinding[];
}

/** Triangles of one material. */
export interface Primitive {
  /** One beyond the last where there is none. */
  material: number;
  has_coordinates: boolean;
  /** Vertices one after the other. */
  vertices: Uint8Array;
  indices: Uint32Array;
}

export interface Geometry {
  primitives: Primitive[];
  /** From vertex to vertex. */
  vertex_bytes: number;
  /** Where floats begin in a vertex: three of position and normal, four of tangent and colour, two times two coordinates. */
  attributes: { position: number; normal: number; tangent: number; coordinates: number; color: number };
  findings: Finding[];
}

interface Opened {
  model: number;
  images: ModelImage[];
  textures: NeededTexture[];
  materials: ModelMaterial[];
  missing: string[];
  findings: Finding[];
}

/** A glTF 2.0 model: what its materials bind, and its triangles. Needs the module that bakes. */
export class Model {
  readonly images: readonly ModelImage[];
  readonly textures: readonly NeededTexture[];
  readonly materials: readonly ModelMaterial[];
  readonly findings: readonly Finding[];
  private readonly library: Library;
  private readonly model: number;
  private readonly base: string;

  private constructor(library: Library, opened: Opened, base: string) {
    this.library = library;
    this.model = opened.model;
    this.base = base;
    this.images = opened.images;
    this.textures = opened.textures;
    this.materials = opened.materials;
    // Images of their own are loaded by their addresses: that they are not there yet is no news.
    this.findings = opened.findings.filter(({ code }) => code !== "image-missing");
  }

  /** Reads a .glb or .gltf file that the page has; `files` are its buffers by their names, `base` is what its addresses refer to. */
  static read(library: Library, bytes: Uint8Array, files: Record<string, Uint8Array> = {}, base = globalThis.document?.baseURI ?? ""): Model {
    return new Model(library, open(library, bytes, files), base);
  }

  /** Fetches a model and its buffers. */
  static async fetch(library: Library, address: string | URL, signal?: AbortSignal): Promise<Model> {
    const url = new URL(address, globalThis.document?.baseURI).href;
    const whole = async (from: string): Promise<Uint8Array> => {
      const file = await fetchedRanges(from, signal);
      return file.read(0, file.size);
    };
    const bytes = await whole(url);
    const opened = open(library, bytes, {});
    const images = new Set(opened.images.map(({ uri }) => uri));
    const lacking = opened.missing.filter((name) => !images.has(name));
    if (lacking.length === 0) return new Model(library, opened, url);
    library.module.free(opened.model);
    const files = Object.fromEntries(await Promise.all(lacking.map(async (name) => [name, await whole(new URL(name, url).href)] as const)));
    return Model.read(library, bytes, files, url);
  }

  /** Where the image of a texture comes from: an address, or its bytes where they are within the model. */
  source(texture: number): FileSource {
    const image = this.textures[texture]?.image;
    if (image === null || image === undefined) throw new LatticeError("missing", `texture ${texture} has no image`);
    const { source, uri } = this.images[image]!;
    if (source === "file") return new URL(uri, this.base).href;
    const { memory } = this.library.module.call<{ memory: Place }>("model_image", { model: this.model, image });
    return this.library.module.copyOut(memory);
  }

  /** Asks a keeper for all textures, in their order; those without an image are undefined. */
  keepTextures<Kind extends DeviceTexture>(keeper: TextureKeeper<Kind>): (KeptTexture<Kind> | undefined)[] {
    return this.textures.map(({ image, role, cutoff, label }, texture) => {
      if (image === null) return undefined;
      return keeper.keep(this.source(texture), { role, label, ...(cutoff === undefined ? {} : { bake: { coverage: cutoff } }) });
    });
  }

  geometry(): Geometry {
    const { module } = this.library;
    const made = module.call<Omit<Geometry, "primitives"> & {
      primitives: { material: number; has_coordinates: boolean; vertices: number; indices: number }[];
    }>("model_primitives", { model: this.model });
    const taken = (object: number): Uint8Array => {
      const bytes = module.copyOut(module.call<{ memory: Place }>("bytes", { object }).memory);
      module.free(object);
      return bytes;
    };
    return {
      ...made,
      primitives: made.primitives.map(({ material, has_coordinates, vertices, indices }) => ({
        material, has_coordinates, vertices: taken(vertices), indices: new Uint32Array(taken(indices).buffer),
      })),
    };
  }

  free(): void {
    this.library.module.free(this.model);
  }

  [Symbol.dispose](): void {
    this.free();
  }
}

function open({ module }: Library, bytes: Uint8Array, files: Record<string, Uint8Array>): Opened {
  return module.callWithMany<Opened>("open_model", bytes, Object.entries(files));
}
