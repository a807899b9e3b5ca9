// A worker of the pool: bakes pictures into KTX 2.0 files.
import { LatticeError, type ErrorKind } from "./errors.js";
import { Library, type BakeOptions, type CubeOptions } from "./library.js";

export type Job =
  | { kind: "bake"; bytes: Uint8Array<ArrayBuffer>; options: BakeOptions }
  | { kind: "cube"; faces: { bytes: Uint8Array<ArrayBuffer>; name: string }[]; options: CubeOptions };

export interface Order {
  id: number;
  job: Job;
}

export type Outcome =
  | { id: number; file: Uint8Array<ArrayBuffer> }
  | { id: number; error: { kind: ErrorKind; message: string; offset?: number } };

interface Port {
  postMessage(message: Outcome, transfer: ArrayBuffer[]): void;
  addEventListener(type: "message", listener: (event: { data: Order }) => void): void;
}

async function made(library: Library, job: Job): Promise<Uint8Array<ArrayBuffer>> {
  const texture = job.kind === "bake"
    ? await library.bake(job.bytes, job.options)
    : await library.cube(job.faces.map(({ bytes, name }) => ({ source: bytes, name })), job.options);
  try {
    return texture.file("ktx2") as Uint8Array<ArrayBuffer>;
  } finally {
    texture.free();
  }
}

function serve(port: Port): void {
  let library: Promise<Library> | undefined;
  port.addEventListener("message", async ({ data: { id, job } }) => {
    try {
      library ??= Library.baking();
      const file = await made(await library, job);
      port.postMessage({ id, file }, [file.buffer]);
    } catch (error) {
      const known = error instanceof LatticeError ? error : new LatticeError("io", String(error));
      // A module that has run out of memory is lost; the next job gets a new one.
      if (known.kind === "memory") library = undefined;
      port.postMessage({ id, error: { kind: known.kind, message: known.message, ...(known.offset === undefined ? {} : { offset: known.offset }) } }, []);
    }
  });
}

serve(globalThis as unknown as Port);
