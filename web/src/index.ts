/** Yellow Lattice in the browser: textures read, baked, planned and uploaded right. */
export { LatticeError, type ErrorKind, type Finding } from "./errors.js";
export { Module, type ModuleSource } from "./module.js";
export { Library, type BakeOptions, type CubeOptions, type DrawOptions, type FormatInfo, type PictureSource, type ReadOptions, type SamplerWords } from "./library.js";
export { Texture, type Metadata, type Pixels, type Role, type Shape } from "./texture.js";
export { PreparedUpload, type Plan, type Region, type UploadOptions } from "./upload.js";
export { WebGlDevice, WebGlTexture } from "./webgl2.js";
export { WebGpuDevice, WebGpuTexture } from "./webgpu.js";
export { TextureStream, fetchedRanges, memoryRanges, type RangeSource } from "./stream.js";
export { WebGlScenes } from "./scenes.js";
export { BakingPool, type PoolOptions } from "./pool.js";
