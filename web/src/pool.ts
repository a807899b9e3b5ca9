import { LatticeError } from "./errors.js";
import { bytesOf, type BakeOptions, type CubeOptions } from "./library.js";
import type { ArrivalListener } from "./stream.js";
import type { ProfileRequest } from "./upload.js";
import type { Job, LoadOptions, Opened, Order, Outcome, Part, Withdrawal } from "./worker.js";

export interface PoolOptions {
  /** By default one less than the processor has threads, at most 8. */
  workers?: number;
}

/** A file by its address, or what the page has of it. */
export type FileSource = string | URL | Uint8Array | ArrayBuffer | Blob;

interface Waiting {
  order: Order;
  transfer: ArrayBuffer[];
  onArrival: ArrivalListener | undefined;
  resolve(result: unknown): void;
  reject(error: unknown): void;
}

interface Bench {
  worker: Worker;
  /** Jobs under way by their numbers. Those of open files come besides, since they mostly wait for the network. */
  busy: Map<number, Waiting>;
  files: number;
}

/** A file that a worker has open. */
export interface OpenFile extends Opened {
  /** Its levels without the `dropped` largest ones, ready for the device. */
  part(dropped: number): Promise<Part>;
  close(): void;
}

/** Workers that read and bake, so that the page's own thread stays free. */
export class TexturePool {
  /** The number of workers. */
  readonly workers: number;
  private readonly benches: Bench[] = [];
  private readonly waiting: Waiting[] = [];
  private next = 1;
  private closed = false;

  constructor({ workers = Math.min(Math.max((globalThis.navigator?.hardwareConcurrency ?? 2) - 1, 1), 8) }: PoolOptions = {}) {
    this.workers = workers;
    for (let i = 0; i < workers; ++i) {
      const bench: Bench = { worker: new Worker(new URL("./worker.js", import.meta.url), { type: "module" }), busy: new Map(), files: 0 };
      bench.worker.addEventListener("message", ({ data }: MessageEvent<Outcome>) => this.take(bench, data));
      bench.worker.addEventListener("error", (event) => {
        const failed = new LatticeError("io", `the worker failed: ${event.message}`);
        for (const { reject } of bench.busy.values()) reject(failed);
        bench.busy.clear();
        this.hand();
      });
      this.benches.push(bench);
    }
  }

  /**
   * Bakes a picture into a KTX 2.0 file without supercompression, for `readTexture`. A signal takes the job out of the queue;
   * one under way ends, and its result is dropped.
   */
  async bake(source: Uint8Array | ArrayBuffer | Blob, options: BakeOptions = {}, signal?: AbortSignal): Promise<Uint8Array> {
    const bytes = Uint8Array.from(await bytesOf(source));
    return this.queue({ kind: "bake", bytes, options }, [bytes.buffer], signal);
  }

  /** Bakes a cube of one picture or of six. */
  async cube(sources: { source: Uint8Array | ArrayBuffer | Blob; name?: string }[], options: CubeOptions = {}, signal?: AbortSignal): Promise<Uint8Array> {
    const faces = await Promise.all(sources.map(async ({ source, name }) => ({ bytes: Uint8Array.from(await bytesOf(source)), name: name ?? "" })));
    return this.queue({ kind: "cube", faces, options }, faces.map(({ bytes }) => bytes.buffer), signal);
  }

  /** Opens a file for a device: of a texture file only the header is read, a picture is baked. To be closed. */
  async open(source: FileSource, profile: ProfileRequest, options: LoadOptions = {}, signal?: AbortSignal, onArrival?: ArrivalListener): Promise<OpenFile> {
    const isAddress = typeof source === "string" || source instanceof URL;
    const url = isAddress ? new URL(source, globalThis.document?.baseURI ?? globalThis.location?.href).href : null;
    const bytes = isAddress ? null : Uint8Array.from(await bytesOf(source));
    this.refuseClosed();
    const bench = this.benches.reduce((least, one) => (one.files < least.files ? one : least));
    const session = this.next++;
    ++bench.files;
    const run = <Result>(job: Job, transfer: ArrayBuffer[] = []): Promise<Result> => this.post<Result>(bench, job, transfer, signal, onArrival);
    try {
      const opened = await run<Opened>({ kind: "open", session, url, bytes, options, profile }, bytes ? [bytes.buffer] : []);
      let isOpen = true;
      return {
        ...opened,
        part: (dropped) => run<Part>({ kind: "part", session, dropped }),
        close: () => {
          if (!isOpen) return;
          isOpen = false;
          --bench.files;
          if (!this.closed) this.post(bench, { kind: "close", session }, []).catch(() => undefined);
        },
      };
    } catch (error) {
      --bench.files;
      // It may have been opened after it was given up.
      if (!this.closed) this.post(bench, { kind: "close", session }, []).catch(() => undefined);
      throw error;
    }
  }

  /** Jobs that wait or are under way. */
  get pending(): number {
    return this.waiting.length + this.benches.reduce((sum, { busy }) => sum + busy.size, 0);
  }

  /** Ends the workers; jobs that are left are cancelled. */
  close(): void {
    this.closed = true;
    const left = [...this.waiting.splice(0), ...this.benches.flatMap(({ busy }) => [...busy.values()])];
    for (const { worker } of this.benches) worker.terminate();
    this.benches.length = 0;
    for (const { reject } of left) reject(new LatticeError("cancelled", "the pool was closed"));
  }

  private refuseClosed(): void {
    if (this.closed) throw new LatticeError("usage", "the pool was closed");
  }

  /** Hands a job to a worker that waits, now or later. */
  private async queue<Result>(job: Job, transfer: ArrayBuffer[], signal?: AbortSignal): Promise<Result> {
    this.refuseClosed();
    return this.promised<Result>(job, transfer, signal, undefined, (entry) => {
      this.waiting.push(entry);
      this.hand();
    });
  }

  private post<Result>(bench: Bench, job: Job, transfer: ArrayBuffer[], signal?: AbortSignal, onArrival?: ArrivalListener): Promise<Result> {
    return this.promised<Result>(job, transfer, signal, onArrival, (entry) => this.give(bench, entry));
  }

  private promised<Result>(job: Job, transfer: ArrayBuffer[], signal: AbortSignal | undefined, onArrival: ArrivalListener | undefined, start: (entry: Waiting) => void): Promise<Result> {
    return new Promise((resolve, reject) => {
      const cancel = (): void => this.withdraw(entry);
      const settled = <Value>(act: (value: Value) => void) => (value: Value): void => {
        signal?.removeEventListener("abort", cancel);
        act(value);
      };
      const entry: Waiting = { order: { id: this.next++, job }, transfer, onArrival, resolve: settled(resolve as (result: unknown) => void), reject: settled(reject) };
      if (signal?.aborted) return cancel();
      signal?.addEventListener("abort", cancel);
      start(entry);
    });
  }

  private withdraw(entry: Waiting): void {
    const place = this.waiting.indexOf(entry);
    if (place >= 0) this.waiting.splice(place, 1);
    for (const { busy, worker } of this.benches)
      if (busy.has(entry.order.id)) worker.postMessage({ withdraw: entry.order.id } satisfies Withdrawal);
    entry.reject(new LatticeError("cancelled", "the job was cancelled"));
  }

  private give(bench: Bench, entry: Waiting): void {
    bench.busy.set(entry.order.id, entry);
    bench.worker.postMessage(entry.order, entry.transfer);
  }

  private hand(): void {
    for (const bench of this.benches) {
      if (bench.busy.size > 0) continue;
      const entry = this.waiting.shift();
      if (!entry) return;
      this.give(bench, entry);
    }
  }

  private take(bench: Bench, outcome: Outcome): void {
    const entry = bench.busy.get(outcome.id);
    if (!entry) return;
    if ("arrived" in outcome) return entry.onArrival?.(...outcome.arrived);
    bench.busy.delete(outcome.id);
    if ("result" in outcome) entry.resolve(outcome.result);
    else entry.reject(new LatticeError(outcome.error.kind, outcome.error.message, outcome.error.place, outcome.error.offset));
    this.hand();
  }
}
