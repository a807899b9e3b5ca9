import { LatticeError } from "./errors.js";
import { bytesOf, type BakeOptions, type CubeOptions } from "./library.js";
import type { Job, Order, Outcome } from "./worker.js";

export interface PoolOptions {
  /** By default one less than the processor has threads, at most 8. */
  workers?: number;
}

interface Waiting {
  order: Order;
  transfer: ArrayBuffer[];
  resolve(file: Uint8Array): void;
  reject(error: unknown): void;
}

interface Bench {
  worker: Worker;
  busy: Waiting | undefined;
}

/** Workers that bake, so that the page's own thread stays free. What they make is a KTX 2.0 file without supercompression, for `readTexture`. */
export class BakingPool {
  private readonly benches: Bench[] = [];
  private readonly waiting: Waiting[] = [];
  private next = 1;
  private closed = false;

  constructor({ workers = Math.min(Math.max((globalThis.navigator?.hardwareConcurrency ?? 2) - 1, 1), 8) }: PoolOptions = {}) {
    for (let i = 0; i < workers; ++i) {
      const bench: Bench = { worker: new Worker(new URL("./worker.js", import.meta.url), { type: "module" }), busy: undefined };
      bench.worker.addEventListener("message", ({ data }: MessageEvent<Outcome>) => this.finish(bench, data));
      bench.worker.addEventListener("error", (event) => {
        const id = bench.busy?.order.id ?? 0;
        this.finish(bench, { id, error: { kind: "io", message: `the worker failed: ${event.message}` } });
      });
      this.benches.push(bench);
    }
  }

  /** Bakes a picture. A signal takes the job out of the queue; one under way ends, and its result is dropped. */
  async bake(source: Uint8Array | ArrayBuffer | Blob, options: BakeOptions = {}, signal?: AbortSignal): Promise<Uint8Array> {
    const bytes = Uint8Array.from(await bytesOf(source));
    return this.order({ kind: "bake", bytes, options }, [bytes.buffer], signal);
  }

  /** Bakes a cube of one picture or of six. */
  async cube(sources: { source: Uint8Array | ArrayBuffer | Blob; name?: string }[], options: CubeOptions = {}, signal?: AbortSignal): Promise<Uint8Array> {
    const faces = await Promise.all(sources.map(async ({ source, name }) => ({ bytes: Uint8Array.from(await bytesOf(source)), name: name ?? "" })));
    return this.order({ kind: "cube", faces, options }, faces.map(({ bytes }) => bytes.buffer), signal);
  }

  /** Jobs that wait or are under way. */
  get pending(): number {
    return this.waiting.length + this.benches.filter(({ busy }) => busy).length;
  }

  /** Ends the workers; jobs that are left are cancelled. */
  close(): void {
    this.closed = true;
    const left = [...this.waiting.splice(0), ...this.benches.flatMap(({ busy }) => busy ?? [])];
    for (const { worker } of this.benches) worker.terminate();
    this.benches.length = 0;
    for (const { reject } of left) reject(new LatticeError("cancelled", "the pool was closed"));
  }

  private order(job: Job, transfer: ArrayBuffer[], signal?: AbortSignal): Promise<Uint8Array> {
    if (this.closed) return Promise.reject(new LatticeError("usage", "the pool was closed"));
    return new Promise((resolve, reject) => {
      const entry: Waiting = { order: { id: this.next++, job }, transfer, resolve, reject };
      const cancel = (): void => {
        const place = this.waiting.indexOf(entry);
        if (place >= 0) this.waiting.splice(place, 1);
        reject(new LatticeError("cancelled", "the job was cancelled"));
      };
      if (signal?.aborted) return cancel();
      signal?.addEventListener("abort", cancel, { once: true });
      this.waiting.push(entry);
      this.hand();
    });
  }

  private hand(): void {
    for (const bench of this.benches) {
      if (bench.busy) continue;
      const entry = this.waiting.shift();
      if (!entry) return;
      bench.busy = entry;
      bench.worker.postMessage(entry.order, entry.transfer);
    }
  }

  private finish(bench: Bench, outcome: Outcome): void {
    const entry = bench.busy;
    bench.busy = undefined;
    if (entry && "file" in outcome) entry.resolve(outcome.file);
    else if (entry && "error" in outcome) entry.reject(new LatticeError(outcome.error.kind, outcome.error.message, "", outcome.error.offset));
    this.hand();
  }
}
