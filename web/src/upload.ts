import { LatticeError, type Finding } from "./errors.js";
import type { FormatInfo, Library, SamplerWords } from "./library.js";
import type { Module, Place } from "./module.js";
import { Texture, type KeptTexture, type Role, type Shape } from "./texture.js";

export interface Region {
  level: number; layer: number; face: number;
  x: number; y: number; z: number;
  width: number; height: number; depth: number;
  /** Bytes from the start of the batch; from row to row; from slice to slice. */
  offset: number; row_pitch: number; slice_pitch: number;
}

export interface Plan {
  /** On the device; its format may differ from the texture's. */
  shape: Shape;
  converts: boolean;
  /** First and count. */
  levels: [number, number];
  regions: Region[];
  batches: { first: number; count: number; bytes: number }[];
}

/** How to upload. All members are optional. */
export interface UploadOptions {
  /** The text form; by default the texture's own. */
  sampler?: string;
  role?: Role;
  format?: string;
  /** Blocks that the device lacks become blocks that it has, where the module bakes. */
  transcode?: boolean;
  first_level?: number;
  level_count?: number;
  smallest_first?: boolean;
  /** Bytes of one batch. */
  staging_budget?: number;
  label?: string;
}

/** What a device needs for a texture: prepared here, or by a worker. */
export interface UploadSource {
  readonly plan: Plan;
  readonly sampler: SamplerWords;
  readonly findings: Finding[];
  /** The texels of a batch as the plan lays them out: valid until the next call of the library. */
  staging(batch: number): Uint8Array;
}

/** The regions of a batch. */
export function regionsOf({ regions, batches }: Plan, batch: number): Region[] {
  const { first, count } = batches[batch]!;
  return regions.slice(first, first + count);
}

/** An upload that is planned and, where it had to be, converted. */
export class PreparedUpload implements UploadSource {
  readonly plan: Plan;
  readonly sampler: SamplerWords;
  readonly findings: Finding[];
  private readonly module: Module;
  private readonly upload: number;
  private readonly texture: Texture;

  constructor(texture: Texture, profile: number, options: UploadOptions) {
    this.module = texture.module;
    this.texture = texture;
    const { label: _, ...asked } = options;
    const made = this.module.call<{ upload: number; plan: Plan; sampler: SamplerWords; findings: Finding[] }>("prepare_upload", {
      texture: texture.object, profile, ...asked,
    });
    this.upload = made.upload;
    this.plan = made.plan;
    this.sampler = made.sampler;
    this.findings = made.findings;
  }

  staging(batch: number): Uint8Array {
    const { memory } = this.module.call<{ memory: Place }>("fill_staging", { upload: this.upload, texture: this.texture.object, batch });
    return this.module.view(memory);
  }

  /** What goes to the device: a conversion, or null where the texture goes as it is. Takes it out of the upload. */
  converted(): Texture | null {
    const made = this.module.call<KeptTexture | { texture: null }>("converted", { upload: this.upload });
    return made.texture === null ? null : new Texture(this.module, made as KeptTexture);
  }

  free(): void {
    this.module.free(this.upload);
  }
}

/** A texture on a device. */
export interface DeviceTexture {
  /** On the device. */
  readonly shape: Shape;
  readonly samplerWords: SamplerWords;
  readonly findings: Finding[];
  free(): void;
}

/** An upload that has begun. Freed before it is finished, it leaves nothing behind. */
export interface Uploading<Kind extends DeviceTexture> {
  /** Carries the next batch out; false when all are done. */
  step(): boolean;
  /** The texture, when all batches are done. */
  finish(): Kind;
  free(): void;
}

/** What a device of the page's is asked for in the module: its own words for extensions and limits. */
export interface ProfileRequest {
  base: string;
  has: string[];
  max_2d_side: number;
  max_3d_side: number;
  max_cube_side: number;
  max_layers: number;
  max_anisotropy?: number;
}

/** What the devices of WebGL and WebGPU have in common. */
export abstract class TextureDevice<Kind extends DeviceTexture = DeviceTexture> {
  readonly library: Library;
  /** The names of the formats that it samples. */
  readonly formats: readonly string[];
  /** The device's description in the module. */
  readonly profile: number;
  /** The same for the module of a worker. */
  readonly profileRequest: ProfileRequest;

  protected constructor(library: Library, request: ProfileRequest) {
    this.library = library;
    this.profileRequest = request;
    const made = library.module.call<{ profile: number; formats: string[] }>("profile", request);
    this.profile = made.profile;
    this.formats = made.formats;
  }

  /** Begins an upload, to be carried out batch by batch: the page may draw between them. */
  abstract begin(source: UploadSource, label?: string): Uploading<Kind>;

  /** Uploads all levels of a texture and makes its sampler. */
  upload(texture: Texture, options: UploadOptions = {}): Kind {
    const prepared = new PreparedUpload(texture, this.profile, options);
    try {
      const uploading = this.begin(prepared, options.label);
      try {
        while (uploading.step());
        return uploading.finish();
      } catch (error) {
        uploading.free();
        throw error;
      }
    } finally {
      prepared.free();
    }
  }

  /**
   * Of files in several formats, the first that the device samples as it is: `{"astc-6x6-srgb": "wall.astc.ktx2", "bc7-srgb":
   * "wall.bc.ktx2"}`. The last one where it samples none of them, to be decoded on the way.
   */
  pick<File>(files: Record<string, File>): File {
    const names = Object.keys(files);
    for (const name of names) this.library.format(name);
    const found = names.find((name) => this.formats.includes(name)) ?? names.at(-1);
    if (found === undefined) throw new LatticeError("usage", "there is no file to pick");
    return files[found]!;
  }

  protected formatOf(source: UploadSource): FormatInfo {
    return this.library.format(source.plan.shape.format);
  }
}
