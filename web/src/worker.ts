// A worker of the pool: makes textures of files, and what a device needs of them.
import { LatticeError, type ErrorKind, type Finding } from "./errors.js";
import { Library, type BakeOptions, type CubeOptions, type SamplerWords } from "./library.js";
import { TextureStream, fetchedRanges, memoryRanges, type RangeSource } from "./stream.js";
import type { Shape, Texture } from "./texture.js";
import { PreparedUpload, type Plan, type ProfileRequest, type UploadOptions } from "./upload.js";

/** How a file becomes a texture. A texture file is taken as it is; for pictures the members are those of `bake`. */
export interface LoadOptions {
  bake?: BakeOptions;
  /** A picture becomes a cube. */
  cube?: CubeOptions;
  upload?: Omit<UploadOptions, "first_level" | "level_count" | "label">;
}

export type Job =
  | { kind: "bake"; bytes: Uint8Array<ArrayBuffer>; options: BakeOptions }
  | { kind: "cube"; faces: { bytes: Uint8Array<ArrayBuffer>; name: string }[]; options: CubeOptions }
  | { kind: "open"; session: number; url: string | null; bytes: Uint8Array<ArrayBuffer> | null; options: LoadOptions; profile: ProfileRequest }
  | { kind: "part"; session: number; dropped: number }
  | { kind: "close"; session: number };

export interface Order {
  id: number;
  job: Job;
}

/** Ends what is under way for an order. */
export interface Withdrawal {
  withdraw: number;
}

/** What a texture will be on the device. */
export interface Opened {
  shape: Shape;
  /** "2D", "cube" ... */
  kind: TextureKind;
  /** Whether its small levels can be had before the large ones. */
  isStream: boolean;
}

export type TextureKind = "2D" | "2D array" | "cube" | "cube array" | "3D" | "1D";

/** Levels made ready for the device. */
export interface Part {
  plan: Plan;
  sampler: SamplerWords;
  findings: Finding[];
  batches: Uint8Array<ArrayBuffer>[];
}

export interface ErrorParts {
  kind: ErrorKind;
  message: string;
  place: string;
  offset?: number;
}

export type Outcome =
  | { id: number; result: unknown }
  | { id: number; error: ErrorParts }
  | { id: number; arrived: [bytes: number, total: number] };

interface Port {
  postMessage(message: Outcome, transfer: ArrayBuffer[]): void;
  addEventListener(type: "message", listener: (event: { data: Order | Withdrawal }) => void): void;
}

/** A file that is being loaded. */
interface Session {
  library: Library;
  profile: number;
  options: LoadOptions;
  stream: TextureStream | undefined;
  texture: Texture | undefined;
}

class Workshop {
  private readonly port: Port;
  private readonly libraries = new Map<"reading" | "baking", Promise<Library>>();
  private readonly profiles = new WeakMap<Library, Map<string, number>>();
  private readonly sessions = new Map<number, Session>();
  private readonly controllers = new Map<number, AbortController>();

  constructor(port: Port) {
    this.port = port;
    port.addEventListener("message", ({ data }) => {
      if ("withdraw" in data) this.controllers.get(data.withdraw)?.abort();
      else void this.carryOut(data);
    });
  }

  private async carryOut({ id, job }: Order): Promise<void> {
    const controller = new AbortController();
    this.controllers.set(id, controller);
    try {
      const [result, transfer] = await this.resultOf(id, job, controller.signal);
      this.port.postMessage({ id, result }, transfer);
    } catch (error) {
      const known = error instanceof LatticeError ? error : new LatticeError("io", String(error));
      // A module that has run out of memory is lost; the next job gets a new one.
      if (known.kind === "memory") this.libraries.clear();
      this.port.postMessage({ id, error: { kind: known.kind, message: known.problem, place: known.place, ...(known.offset === undefined ? {} : { offset: known.offset }) } }, []);
    } finally {
      this.controllers.delete(id);
    }
  }

  private async resultOf(id: number, job: Job, signal: AbortSignal): Promise<[unknown, ArrayBuffer[]]> {
    switch (job.kind) {
      case "bake": {
        const library = await this.library("baking");
        return fileOf(await library.bake(job.bytes, job.options));
      }
      case "cube": {
        const library = await this.library("baking");
        return fileOf(await library.cube(job.faces.map(({ bytes, name }) => ({ source: bytes, name })), job.options));
      }
      case "open":
        return [await this.open(id, job, signal), []];
      case "part": {
        const part = await this.part(this.sessionOf(job.session), job.dropped);
        return [part, part.batches.map(({ buffer }) => buffer)];
      }
      case "close":
        this.close(job.session);
        return [null, []];
    }
  }

  private library(name: "reading" | "baking"): Promise<Library> {
    let library = this.libraries.get(name);
    if (!library) {
      library = Library[name]();
      library.catch(() => this.libraries.delete(name));
      this.libraries.set(name, library);
    }
    return library;
  }

  private sessionOf(number: number): Session {
    const session = this.sessions.get(number);
    if (!session) throw new LatticeError("usage", "the file is not open");
    return session;
  }

  private async open(id: number, job: Job & { kind: "open" }, signal: AbortSignal): Promise<Opened> {
    const arrived = (bytes: number, total: number): void => this.port.postMessage({ id, arrived: [bytes, total] }, []);
    const source = job.url !== null ? await fetchedRanges(job.url, signal, arrived) : memoryRanges(job.bytes!);
    const session = await this.begin(source, job);
    if (signal.aborted) {
      free(session);
      throw new LatticeError("cancelled", "the texture was not wanted any more");
    }
    const { library, stream, texture } = session;
    try {
      const planned = library.module.call<{ shape: Shape; kind: TextureKind }>("plan_upload", {
        ...(stream ? { stream: stream.object } : { texture: texture!.object }), profile: session.profile, ...job.options.upload,
      });
      this.sessions.set(job.session, session);
      return { shape: planned.shape, kind: planned.kind, isStream: stream !== undefined };
    } catch (error) {
      free(session);
      throw error;
    }
  }

  /** A texture file's header, or a picture baked as a whole. */
  private async begin(source: RangeSource, { options, profile }: Job & { kind: "open" }): Promise<Session> {
    const reading = await this.library("reading");
    const { role, transfer } = options.bake ?? {};
    if (reading.isTexture(await source.read(0, Math.min(128, source.size)))) {
      const stream = await TextureStream.open(reading, source, { ...(role ? { role } : {}), ...(transfer ? { transfer } : {}) });
      return { library: reading, profile: this.profile(reading, profile), options, stream, texture: undefined };
    }
    const bytes = await source.read(0, source.size);
    const library = await this.library("baking");
    const texture = options.cube ? await library.cube([{ source: bytes }], options.cube) : await library.bake(bytes, options.bake);
    return { library, profile: this.profile(library, profile), options, stream: undefined, texture };
  }

  private profile(library: Library, request: ProfileRequest): number {
    let known = this.profiles.get(library);
    if (!known) this.profiles.set(library, (known = new Map()));
    const key = JSON.stringify(request);
    let profile = known.get(key);
    if (profile === undefined) known.set(key, (profile = library.module.call<{ profile: number }>("profile", request).profile));
    return profile;
  }

  private async part({ profile, options, stream, texture }: Session, dropped: number): Promise<Part> {
    const rest = stream ? await stream.read(dropped) : dropped > 0 ? texture!.withoutTopLevels(dropped) : texture!;
    try {
      const prepared = new PreparedUpload(rest, profile, { ...options.upload });
      try {
        const { plan, sampler, findings } = prepared;
        const batches = plan.batches.map((_, batch) => prepared.staging(batch).slice() as Uint8Array<ArrayBuffer>);
        return { plan, sampler, findings, batches };
      } finally {
        prepared.free();
      }
    } finally {
      if (rest !== texture) rest.free();
    }
  }

  private close(number: number): void {
    const session = this.sessions.get(number);
    this.sessions.delete(number);
    if (session) free(session);
  }
}

function free({ stream, texture }: Session): void {
  stream?.free();
  texture?.free();
}

function fileOf(texture: Texture): [Uint8Array, ArrayBuffer[]] {
  try {
    const file = texture.file("ktx2") as Uint8Array<ArrayBuffer>;
    return [file, [file.buffer]];
  } finally {
    texture.free();
  }
}

new Workshop(globalThis as unknown as Port);
