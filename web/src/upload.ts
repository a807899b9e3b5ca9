import type { Finding } from "./errors.js";
import type { SamplerWords } from "./library.js";
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

/** An upload that is planned and, where it had to be, converted. */
export class PreparedUpload {
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

  regions(batch: number): Region[] {
    const { first, count } = this.plan.batches[batch]!;
    return this.plan.regions.slice(first, first + count);
  }

  /** The texels of a batch as the plan lays them out: the module's memory, valid until its next call. */
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
