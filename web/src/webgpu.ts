import { type Finding } from "./errors.js";
import type { Library, SamplerWords } from "./library.js";
import type { Shape } from "./texture.js";
import { TextureDevice, regionsOf, type DeviceTexture, type UploadSource, type Uploading } from "./upload.js";

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
export class WebGpuTexture implements DeviceTexture {
  readonly texture: GPUTexture;
  readonly view: GPUTextureView;
  readonly sampler: GPUSampler;
  /** On the device. */
  readonly shape: Shape;
  readonly samplerWords: SamplerWords;
  readonly findings: Finding[];

  /** @internal */
  constructor(texture: GPUTexture, view: GPUTextureView, sampler: GPUSampler, source: UploadSource) {
    this.texture = texture;
    this.view = view;
    this.sampler = sampler;
    this.shape = source.plan.shape;
    this.samplerWords = source.sampler;
    this.findings = source.findings;
  }

  free(): void {
    this.texture.destroy();
  }

  [Symbol.dispose](): void {
    this.free();
  }
}

/** Uploads to a device of the page's. */
export class WebGpuDevice extends TextureDevice<WebGpuTexture> {
  readonly device: GPUDevice;
  /** GPUTextureUsage that its textures have besides sampling and copying. */
  readonly usage: number;
  private readonly samplers = new Map<string, GPUSampler>();

  constructor(library: Library, device: GPUDevice, usage = 0) {
    const limits = device.limits;
    super(library, {
      base: "webgpu",
      has: switches.filter(([feature]) => device.features.has(feature)).flatMap(([, names]) => names),
      max_2d_side: limits.maxTextureDimension2D,
      max_3d_side: limits.maxTextureDimension3D,
      max_cube_side: limits.maxTextureDimension2D,
      max_layers: limits.maxTextureArrayLayers,
    });
    this.device = device;
    this.usage = usage;
  }

  override begin(source: UploadSource, label = ""): Uploading<WebGpuTexture> {
    const texture = this.create(source.plan.shape, label);
    let batch = 0;
    return {
      step: () => {
        if (batch < source.plan.batches.length) this.write(texture, source, batch++);
        return batch < source.plan.batches.length;
      },
      finish: () => new WebGpuTexture(texture, viewOf(texture, source), this.samplerOf(source.sampler), source),
      free: () => texture.destroy(),
    };
  }

  /** A sampler by its text form, fitted to the device, for a texture that is sampled in several ways. */
  sampler(text: string): { sampler: GPUSampler; words: SamplerWords } {
    const words = this.library.sampler(text, this.profile);
    return { sampler: this.samplerOf(words), words };
  }

  /** The number of samplers in use. */
  get samplerCount(): number {
    return this.samplers.size;
  }

  private create(shape: Shape, label: string): GPUTexture {
    const format = this.library.format(shape.format);
    return this.device.createTexture({
      label,
      format: format.webgpu as GPUTextureFormat,
      dimension: `${shape.dimensions}d`,
      size: [shape.width, shape.height, shape.dimensions === 3 ? shape.depth : shape.layers * shape.faces],
      mipLevelCount: shape.levels,
      usage: textureBinding | copyTarget | copySource | this.usage,
    });
  }

  private write(texture: GPUTexture, source: UploadSource, batch: number): void {
    const { shape } = source.plan;
    const [, blockHeight] = this.formatOf(source).block;
    const staging = source.staging(batch);
    for (const region of regionsOf(source.plan, batch)) {
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

function viewOf(texture: GPUTexture, { plan: { shape, levels } }: UploadSource): GPUTextureView {
  return texture.createView({ dimension: viewDimension(shape), baseMipLevel: levels[0], mipLevelCount: levels[1] });
}

function viewDimension(shape: Shape): GPUTextureViewDimension {
  if (shape.dimensions === 3) return "3d";
  if (shape.dimensions === 1) return "1d";
  if (shape.faces === 6) return shape.is_array ? "cube-array" : "cube";
  return shape.is_array ? "2d-array" : "2d";
}
