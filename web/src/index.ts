/** Yellow Lattice in the browser: textures read, baked, planned and uploaded right. */
export { LatticeError, type ErrorKind, type Finding } from "./errors.js";
export { Module, type ModuleSource } from "./module.js";
export { Library, type BakeOptions, type CubeOptions, type DrawOptions, type FormatInfo, type PictureSource, type ReadOptions, type SamplerWords } from "./library.js";
export { Texture, type Metadata, type Pixels, type Role, type Shape } from "./texture.js";
export {
  PreparedUpload, TextureDevice, regionsOf, type DeviceTexture, type Plan, type ProfileRequest, type Region, type UploadOptions, type UploadSource, type Uploading,
} from "./upload.js";
export { WebGlDevice, WebGlTexture } from "./webgl2.js";
export { WebGpuDevice, WebGpuTexture } from "./webgpu.js";
export { TextureStream, fetchedRanges, memoryRanges, type ArrivalListener, type RangeSource } from "./stream.js";
export { WebGlScenes } from "./scenes.js";
export { WebGpuScenes } from "./webgpu-scenes.js";
export { TexturePool, type FileSource, type OpenFile, type PoolOptions } from "./pool.js";
export { TextureKeeper, type KeepOptions, type KeeperOptions, type KeeperState, type KeeperTotals, type KeptTexture } from "./keeper.js";
export type { LoadOptions, Opened, Part, TextureKind } from "./worker.js";
export { Model, type Geometry, type ModelBinding, type ModelImage, type ModelMaterial, type NeededTexture, type Primitive } from "./model.js";
