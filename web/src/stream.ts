import { LatticeError } from "./errors.js";
import type { Library, ReadOptions } from "./library.js";
import { Texture, type KeptTexture, type Metadata, type Shape } from "./texture.js";

interface Needs {
  needs?: [offset: number, length: number];
}

/** Where bytes of a file come from. */
export interface RangeSource {
  size: number;
  read(offset: number, length: number): Promise<Uint8Array>;
}

/** What has arrived of a file so far; `total` is 0 while it is not known. */
export type ArrivalListener = (arrived: number, total: number) => void;

/** The bytes of an answer, reported as they arrive. */
async function bodyOf(response: Response, report: (bytes: number) => void): Promise<Uint8Array> {
  if (!response.body) return new Uint8Array(await response.arrayBuffer());
  const parts: Uint8Array[] = [];
  let length = 0;
  const reader = response.body.getReader();
  for (let next = await reader.read(); !next.done; next = await reader.read()) {
    parts.push(next.value);
    length += next.value.length;
    report(next.value.length);
  }
  const whole = new Uint8Array(length);
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** fetch, with what it throws as an error of the library's. */
async function fetched(url: string | URL, init: RequestInit): Promise<Response> {
  try {
    return await fetch(url, init);
  } catch (error) {
    if (init.signal?.aborted) throw new LatticeError("cancelled", "the file was not wanted any more", String(url));
    throw new LatticeError("io", `the file cannot be fetched: ${error instanceof Error ? error.message : String(error)}`, String(url));
  }
}

/** A file of a server that answers ranges; one that does not is fetched whole at the first read. */
export async function fetchedRanges(url: string | URL, signal?: AbortSignal, onArrival?: ArrivalListener): Promise<RangeSource> {
  const first = 4096;
  let arrived = 0, total = 0;
  const report = (bytes: number): void => onArrival?.((arrived += bytes), total);
  const ask = async (from: number, length: number): Promise<Response> => {
    const response = await fetched(url, { headers: { Range: `bytes=${from}-${from + length - 1}` }, ...(signal ? { signal } : {}) });
    if (!response.ok) throw new LatticeError(response.status === 404 ? "missing" : "io", `the server answers ${response.status}`, String(url));
    return response;
  };
  const response = await ask(0, first);
  if (response.status === 200) {
    total = Number(response.headers.get("Content-Length") ?? 0);
    return memoryRanges(await bodyOf(response, report));
  }
  const size = Number(response.headers.get("Content-Range")?.split("/")[1]);
  if (!Number.isFinite(size)) throw new LatticeError("io", "the server does not say how large the file is", String(url));
  total = size;
  const start = await bodyOf(response, report);
  return {
    size,
    async read(offset, length) {
      if (offset + length <= start.length) return start.subarray(offset, offset + length);
      const answer = await ask(offset, length);
      const bytes = await bodyOf(answer, report);
      const part = answer.status === 200 ? bytes.subarray(offset, offset + length) : bytes;
      if (part.length !== length) throw new LatticeError("io", `the server gave ${part.length} bytes instead of ${length}`, String(url));
      return part;
    },
  };
}

export function memoryRanges(bytes: Uint8Array): RangeSource {
  return { size: bytes.length, read: (offset, length) => Promise.resolve(bytes.subarray(offset, offset + length)) };
}

/** A texture file of which only the header has been read. Levels come when they are asked for, the smallest first. */
export class TextureStream {
  readonly shape: Shape;
  readonly metadata: Metadata;
  private readonly library: Library;
  private readonly source: RangeSource;
  private readonly stream: number;

  private constructor(library: Library, source: RangeSource, stream: number, opened: { shape: Shape; metadata: Metadata }) {
    this.library = library;
    this.source = source;
    this.stream = stream;
    this.shape = opened.shape;
    this.metadata = opened.metadata;
  }

  static async open(library: Library, source: RangeSource, options: ReadOptions = {}): Promise<TextureStream> {
    const { stream } = library.module.call<{ stream: number }>("begin_stream", { size: source.size });
    try {
      const opened = await answered<{ shape: Shape; metadata: Metadata }>(library, source, stream, "open_stream", options);
      return new TextureStream(library, source, stream, opened);
    } catch (error) {
      library.module.free(stream);
      throw error;
    }
  }

  /** The levels from `first` on as a texture; those above are not fetched. */
  async read(first = 0): Promise<Texture> {
    const kept = await answered<KeptTexture>(this.library, this.source, this.stream, "read_stream", { first_level: first });
    return new Texture(this.library.module, kept);
  }

  /** Its number in the module. */
  get object(): number {
    return this.stream;
  }

  free(): void {
    this.library.module.free(this.stream);
  }
}

/** Calls until the module has all the ranges that it needs. */
async function answered<Answer>(library: Library, source: RangeSource, stream: number, call: string, request: object): Promise<Answer> {
  for (;;) {
    const answer = library.module.call<Answer & Needs>(call, { stream, ...request });
    if (!answer.needs) return answer;
    const [offset, length] = answer.needs;
    library.module.callWith("provide", await source.read(offset, length), { stream, offset });
  }
}
