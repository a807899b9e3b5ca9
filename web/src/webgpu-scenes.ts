import type { DrawOptions, Library } from "./library.js";
import type { SceneNumbers } from "./scenes.js";
import type { Pixels } from "./texture.js";
import type { WebGpuDevice, WebGpuTexture } from "./webgpu.js";
import { cubeShader, planeShader } from "./wgsl.js";

const uniform = 0x40, copyTo = 0x8, mapRead = 0x1, drawnInto = 0x10, copyFrom = 0x1;
const format: GPUTextureFormat = "rgba8unorm-srgb";

/** Draws the scenes of the core on a device; needs the module that bakes. */
export class WebGpuScenes {
  private readonly device: GPUDevice;
  private readonly library: Library;
  private readonly pipelines = new Map<boolean, GPURenderPipeline>();

  constructor({ device, library }: WebGpuDevice) {
    this.device = device;
    this.library = library;
  }

  /** Draws into a texture of its own in sRGB and gives its pixels, the top row first: what `Library.draw` computes. */
  async draw(texture: WebGpuTexture, options: DrawOptions & { alpha?: "straight" | "premultiplied" }): Promise<Pixels> {
    const scene = this.library.module.call<SceneNumbers>("scene", options);
    const { width, height } = scene;
    const target = this.device.createTexture({ format, size: [width, height], usage: drawnInto | copyFrom });
    const numbers = new Float32Array(scene.numbers);
    const block = this.device.createBuffer({ size: numbers.byteLength, usage: uniform | copyTo });
    const pitch = Math.ceil((width * 4) / 256) * 256;
    const buffer = this.device.createBuffer({ size: pitch * height, usage: copyTo | mapRead });
    try {
      this.device.queue.writeBuffer(block, 0, numbers);
      this.encode(texture, scene.is_cube, target, block, (encoder) =>
        encoder.copyTextureToBuffer({ texture: target }, { buffer, bytesPerRow: pitch }, [width, height]));
      await buffer.mapAsync(mapRead);
      return { width, height, data: rowsOf(new Uint8Array(buffer.getMappedRange()), pitch, width * 4, height) };
    } finally {
      for (const made of [target, block, buffer]) made.destroy();
    }
  }

  private encode(texture: WebGpuTexture, isCube: boolean, target: GPUTexture, block: GPUBuffer, then: (encoder: GPUCommandEncoder) => void): void {
    const pipeline = this.pipelineFor(isCube);
    const group = this.device.createBindGroup({
      layout: pipeline.getBindGroupLayout(0),
      entries: [{ binding: 0, resource: { buffer: block } }, { binding: 1, resource: texture.view }, { binding: 2, resource: texture.sampler }],
    });
    const encoder = this.device.createCommandEncoder();
    const pass = encoder.beginRenderPass({ colorAttachments: [{ view: target.createView(), loadOp: "clear", storeOp: "store" }] });
    pass.setPipeline(pipeline);
    pass.setBindGroup(0, group);
    pass.draw(3);
    pass.end();
    then(encoder);
    this.device.queue.submit([encoder.finish()]);
  }

  private pipelineFor(isCube: boolean): GPURenderPipeline {
    let pipeline = this.pipelines.get(isCube);
    if (!pipeline) {
      const module = this.device.createShaderModule({ code: isCube ? cubeShader : planeShader });
      pipeline = this.device.createRenderPipeline({
        layout: "auto",
        vertex: { module, entryPoint: "cover" },
        fragment: { module, entryPoint: "shade", targets: [{ format }] },
      });
      this.pipelines.set(isCube, pipeline);
    }
    return pipeline;
  }
}

/** Rows without the gaps between them. */
function rowsOf(bytes: Uint8Array, pitch: number, rowBytes: number, rows: number): Uint8ClampedArray<ArrayBuffer> {
  const tight = new Uint8ClampedArray(rowBytes * rows);
  for (let row = 0; row < rows; ++row) tight.set(bytes.subarray(row * pitch, row * pitch + rowBytes), row * rowBytes);
  return tight;
}
