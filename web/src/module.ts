import { LatticeError, type ErrorKind } from "./errors.js";

/** Memory of a module: address and length. */
export type Place = [number, number];

interface Exports {
  memory: WebAssembly.Memory;
  allocate(bytes: number): number;
  release(address: number): void;
  call(request: number, length: number): number;
  answer(): number;
  _initialize?: () => void;
}

interface ErrorJson {
  kind: ErrorKind;
  message: string;
  place: string;
  offset?: number;
}

/** Where a module's bytes come from: compiled already, or to be compiled. */
export type ModuleSource = WebAssembly.Module | BufferSource | Response | Promise<Response> | string | URL;

async function compile(source: ModuleSource): Promise<WebAssembly.Module> {
  if (source instanceof WebAssembly.Module) return source;
  if (typeof source === "string" || source instanceof URL) {
    const url = new URL(source, import.meta.url);
    if (url.protocol === "file:") {
      // Node's fetch reads no files.
      const { readFile } = await import(/* @vite-ignore */ "node:fs/promises" as string);
      return WebAssembly.compile(await readFile(url));
    }
    return compile(fetch(url));
  }
  if (source instanceof Promise || (typeof Response !== "undefined" && source instanceof Response)) {
    const response = await source;
    if (!response.ok) throw new LatticeError("missing", `the module was answered with ${response.status}`, response.url);
    return WebAssembly.compile(await response.arrayBuffer());
  }
  return WebAssembly.compile(source as BufferSource);
}

const encoder = new TextEncoder();
const decoder = new TextDecoder();

/** What a module would ask its system for: there is none, and nothing of it is ever needed to succeed. */
function systemFor(module: WebAssembly.Module): WebAssembly.Imports {
  const imports: Record<string, Record<string, WebAssembly.ImportValue>> = {};
  const answers: Record<string, (...given: number[]) => number> = {
    proc_exit: (code) => {
      throw new LatticeError("memory", `the module ended with code ${code}`);
    },
  };
  const bad_descriptor = 8;
  for (const { module: space, name, kind } of WebAssembly.Module.imports(module)) {
    if (kind !== "function") continue;
    (imports[space] ??= {})[name] = answers[name] ?? (() => bad_descriptor);
  }
  return imports;
}

/**
 * An instance of a module of WebAssembly. Requests and answers are JSON; files and texels go through its memory. After a
 * trap (it has run out of memory) it is lost: every call fails from then on.
 */
export class Module {
  private readonly exports: Exports;
  private lost: LatticeError | undefined;

  private constructor(instance: WebAssembly.Instance) {
    this.exports = instance.exports as unknown as Exports;
    this.exports._initialize?.();
  }

  static async load(source: ModuleSource): Promise<Module> {
    const compiled = await compile(source);
    return new Module(await WebAssembly.instantiate(compiled, systemFor(compiled)));
  }

  /** Carries a request out. Throws a `LatticeError` where it fails. */
  call<Answer>(name: string, request: object = {}): Answer {
    if (this.lost) throw this.lost;
    const text = encoder.encode(JSON.stringify({ call: name, ...request }));
    const answer = this.guarded(() => {
      const place = this.copyIn(text);
      const length = this.exports.call(place[0], place[1]);
      this.exports.release(place[0]);
      return decoder.decode(this.view([this.exports.answer(), length]));
    });
    const json = JSON.parse(answer) as Answer & { error?: ErrorJson };
    if (json.error) throw new LatticeError(json.error.kind, json.error.message, json.error.place, json.error.offset);
    return json;
  }

  /** The same with bytes that the request names: they are copied into the module for the call. */
  callWith<Answer>(name: string, bytes: Uint8Array, request: object = {}): Answer {
    if (this.lost) throw this.lost;
    const place = this.guarded(() => this.copyIn(bytes));
    try {
      return this.call<Answer>(name, { ...request, bytes: place });
    } finally {
      if (!this.lost) this.exports.release(place[0]);
    }
  }

  /** The same with further bytes by their names, as "files". */
  callWithMany<Answer>(name: string, bytes: Uint8Array, files: [name: string, bytes: Uint8Array][]): Answer {
    if (this.lost) throw this.lost;
    const places: { name: string; bytes: Place }[] = [];
    try {
      for (const [file, content] of files) places.push({ name: file, bytes: this.guarded(() => this.copyIn(content)) });
      return this.callWith<Answer>(name, bytes, { files: places });
    } finally {
      if (!this.lost) for (const { bytes: place } of places) this.exports.release(place[0]);
    }
  }

  /** The module's own memory: valid until the next call, which may move it. */
  view(place: Place): Uint8Array {
    return new Uint8Array(this.exports.memory.buffer, place[0] >>> 0, place[1]);
  }

  /** A copy of it. */
  copyOut(place: Place): Uint8Array {
    return this.view(place).slice();
  }

  free(object: number): void {
    if (!this.lost) this.call("free", { object });
  }

  /** Bytes of its memory, which never shrinks. */
  get memoryBytes(): number {
    return this.exports.memory.buffer.byteLength;
  }

  private copyIn(bytes: Uint8Array): Place {
    const address = this.exports.allocate(bytes.byteLength);
    if (address === 0) throw new LatticeError("memory", `there are no ${bytes.byteLength} bytes of memory left in the module`);
    this.view([address, bytes.byteLength]).set(bytes);
    return [address, bytes.byteLength];
  }

  private guarded<Value>(work: () => Value): Value {
    try {
      return work();
    } catch (error) {
      if (error instanceof WebAssembly.RuntimeError || (error instanceof LatticeError && error.message.includes("ended with code"))) {
        this.lost = new LatticeError("memory", "the module has run out of memory and is lost: load it again");
        throw this.lost;
      }
      throw error;
    }
  }
}
