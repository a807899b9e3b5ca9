import { type Finding } from "./errors.js";
import type { Library, SamplerWords } from "./library.js";
import type { Shape, Texture } from "./texture.js";
import { PreparedUpload, type UploadOptions } from "./upload.js";

/** Features that formats come by, and what the core calls them. */
const switches: [feature: string, names: string[]][] = [
  ["texture-compression-bc", ["s3tc", "s3tc-srgb", "rgtc", "bptc"]],
  ["texture-compression-bc-sliced-3d", ["bc-3d"]],
  ["texture-compression-etc2", ["etc"]],
  ["texture-compression-astc", ["astc"]],
  ["texture-compression-astc-sliced-3d", ["astc-3d"]],
  ["float32-filterable", ["float-linear"]],
];

/** GPUTextureUsage, whose names are not everywhere where devices are. */
const copySource = 0x1, copyTarget = 0x2, textureBinding = 0x4;

/** A texture on a device, with its sampler and a view of its levels. */
export class WebGpuTexture {
  readonly texture: GPUTexture;
  readonly view: GPUTextureView;
  readonly sampler: GPUSampler;
  /** On the device. */
  readonly shape: Shape;
  readonly samplerWords: SamplerWords;
  readonly findings: Finding[];

  /** @internal */
  constructor(texture: GPUTexture, view: GPUTextureView, sampler: GPUSampler, prepared: PreparedUpload) {
    this.texture = texture;
    this.view = view;
    this.sampler = sampler;
    this.shape = prepared.plan.shape;
    this.samplerWords = prepared.sampler;
    this.findings = prepared.findings;
  }

  free(): void {
    this.texture.destroy();
  }

  [Symbol.dispose](): void {
    this.free();
  }
}

/** Uploads to a device of the page's. */
export class WebGpuDevice {
  readonly device: GPUDevice;
  readonly library: Library;
  /** The names of the formats that it samples. */
  readonly formats: readonly string[];
  /** The device's description in the module. */
  readonly profile: number;
  private readonly samplers = new Map<string, GPUSampler>();

  constructor(library: Library, device: GPUDevice) {
    this.library = library;
    this.device = device;
    const has = switches.filter(([feature]) => device.features.has(feature)).flatMap(([, names]) => names);
    const limits = device.limits;
    const made = library.module.call<{ profile: number; formats: string[] }>("profile", {
      base: "webgpu",
      has,
      max_2d_side: limits.maxTextureDimension2D,
      max_3d_side: limits.maxTextureDimension3D,
      max_cube_side: limits.maxTextureDimension2D,
      max_layers: limits.maxTextureArrayLayers,
    });
    this.profile = made.profile;
    this.formats = made.formats;
  }

  /** Uploads all levels of a texture and makes its view and sampler. `usage` adds uses to sampling and copying. */
  upload(texture: Texture, options: UploadOptions = {}, usage = 0): WebGpuTexture {
    const prepared = new PreparedUpload(texture, this.profile, options);
    try {
      const { shape, levels } = prepared.plan;
      const made = this.create(shape, options.label ?? "", usage);
      for (let batch = 0; batch < prepared.plan.batches.length; ++batch) this.write(made, prepared, batch);
      const view = made.createView({
        dimension: viewDimension(shape),
        baseMipLevel: levels[0],
        mipLevelCount: levels[1],
      });
      return new WebGpuTexture(made, view, this.samplerOf(prepared.sampler), prepared);
    } finally {
      prepared.free();
    }
  }

  /** The number of samplers in use. */
  get samplerCount(): number {
    return this.samplers.size;
  }

  private create(shape: Shape, label: string, usage: number): GPUTexture {
    const format = this.library.format(shape.format);
    return this.device.createTexture({
      label,
      format: format.webgpu as GPUTextureFormat,
      dimension: `${shape.dimensions}d`,
      size: [shape.width, shape.height, shape.dimensions === 3 ? shape.depth : shape.layers * shape.faces],
      mipLevelCount: shape.levels,
      usage: textureBinding | copyTarget | copySource | usage,
    });
  }

  private write(texture: GPUTexture, prepared: PreparedUpload, batch: number): void {
    const { shape } = prepared.plan;
    const [, blockHeight] = this.library.format(shape.format).block;
    const staging = prepared.staging(batch);
    for (const region of prepared.regions(batch)) {
      const slice = shape.dimensions === 3 ? region.z : region.layer * shape.faces + region.face;
      this.device.queue.writeTexture(
        { texture, mipLevel: region.level, origin: [region.x, region.y, slice] },
        staging as Uint8Array<ArrayBuffer>,
        { offset: region.offset, bytesPerRow: region.row_pitch, rowsPerImage: Math.ceil(region.height / blockHeight) },
        [region.width, region.height, region.depth],
      );
    }
  }

  private samplerOf(words: SamplerWords): GPUSampler {
    const known = this.samplers.get(words.text);
    if (known) return known;
    const sampler = this.device.createSampler(words.webgpu as GPUSamplerDescriptor);
    this.samplers.set(words.text, sampler);
    return sampler;
  }
}

function viewDimension(shape: Shape): GPUTextureViewDimension {
  if (shape.dimensions === 3) return "3d";
  if (shape.dimensions === 1) return "1d";
  if (shape.faces === 6) return shape.is_array ? "cube-array" : "cube";
  return shape.is_array ? "2d-array" : "2d";
}
