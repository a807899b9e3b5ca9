import { bytesWithout, levelsToDrop } from "./budget.js";
import { LatticeError, type Finding } from "./errors.js";
import type { Role, Shape } from "./texture.js";
import { Texture, type KeptTexture as KeptInModule } from "./texture.js";
import { TexturePool, type FileSource, type OpenFile } from "./pool.js";
import type { DeviceTexture, TextureDevice, UploadSource, Uploading } from "./upload.js";
import type { LoadOptions, Part, TextureKind } from "./worker.js";

export type KeeperState = "waiting" | "decoding" | "uploading" | "ready" | "failed" | "cancelled";

export interface KeeperOptions {
  /** A pool that others use as well; by default one of its own. */
  pool?: TexturePool;
  workers?: number;
  /** Bytes on the device, without placeholders. Beyond it the textures that were not used the longest lose their largest levels. */
  memory_budget?: number;
  /** Levels up to this side are shown while the others are still loading; 0: none. */
  early_side?: number;
  /** Bytes of one batch. */
  staging_budget?: number;
  /** Uploads take up to about this long before the page has its turn. */
  task_milliseconds?: number;
  /** Files that are loaded at once; by default three for each worker. */
  files_at_once?: number;
}

export interface KeepOptions extends LoadOptions {
  role?: Role;
  /** The text form; by default that of the texture. */
  sampler?: string;
  /** What the shader expects, and so the kind of the placeholder. */
  kind?: TextureKind;
  /** Waiting requests with the highest are loaded first. */
  priority?: number;
  /** By default the file's address. */
  label?: string;
}

/** A texture that is asked for: a placeholder until it is there. */
export interface KeptTexture<Kind extends DeviceTexture = DeviceTexture> {
  readonly state: KeeperState;
  /** 0 to 1. */
  readonly progress: number;
  /** Of the last load: an earlier texture may still be there. */
  readonly error: LatticeError | undefined;
  readonly findings: readonly Finding[];
  /** Largest levels that are left out to save memory. */
  readonly droppedLevels: number;
  readonly deviceBytes: number;
  readonly label: string;
  /** The texture or its placeholder; counts as use. Ask for it each time that you bind it: others take its place. */
  readonly texture: Kind;
  /** When it is there as a whole for the first time; fails as it fails. */
  readonly ready: Promise<void>;
  priority: number;
  /** Stops loading; the placeholder stays. */
  cancel(): void;
  /** To be called once for each time that it was asked for; the last one frees the texture. */
  release(): void;
}

/** All textures at once. */
export interface KeeperTotals {
  textures: number;
  waiting: number; decoding: number; uploading: number; ready: number; failed: number; cancelled: number;
  deviceBytes: number;
}

/** One texture, however often it was asked for. */
class Entry<Kind extends DeviceTexture> {
  state: KeeperState = "waiting";
  arrived = 0;
  batchesLeft = 1;
  error: LatticeError | undefined;
  texture: Kind | undefined;
  shape: Shape | undefined;
  kind: TextureKind;
  dropped = 0;
  users = 0;
  lastUse = 0;
  priority: number;
  isLoading = false;
  controller = new AbortController();
  readonly ready: Promise<void>;
  settle!: { resolve(): void; reject(error: LatticeError): void };
  readonly handle: KeptTexture<Kind>;
  readonly source: FileSource;
  readonly options: KeepOptions;
  readonly label: string;
  readonly key: string | undefined;

  constructor(keeper: TextureKeeper<Kind>, source: FileSource, options: KeepOptions, key: string | undefined) {
    this.handle = new Handle(keeper, this);
    this.source = source;
    this.options = options;
    this.key = key;
    this.kind = options.kind ?? (options.cube ? "cube" : "2D");
    this.priority = options.priority ?? 0;
    this.label = options.label ?? (typeof source === "string" || source instanceof URL ? String(source) : "");
    this.ready = new Promise((resolve, reject) => (this.settle = { resolve, reject }));
    // A page that does not wait for it must not be told of it as unhandled.
    this.ready.catch(() => undefined);
  }

  get deviceBytes(): number {
    return this.texture?.shape.bytes ?? 0;
  }

  get progress(): number {
    if (this.state === "ready") return 1;
    const loaded = 0.7 * this.arrived;
    return this.state === "uploading" ? 0.7 + 0.3 * (1 - this.batchesLeft) : loaded;
  }
}

class Handle<Kind extends DeviceTexture> implements KeptTexture<Kind> {
  private readonly keeper: TextureKeeper<Kind>;
  private readonly entry: Entry<Kind>;

  constructor(keeper: TextureKeeper<Kind>, entry: Entry<Kind>) {
    this.keeper = keeper;
    this.entry = entry;
  }

  get state(): KeeperState { return this.entry.state; }
  get progress(): number { return this.entry.progress; }
  get error(): LatticeError | undefined { return this.entry.error; }
  get findings(): readonly Finding[] { return this.entry.texture?.findings ?? []; }
  get droppedLevels(): number { return this.entry.dropped; }
  get deviceBytes(): number { return this.entry.deviceBytes; }
  get label(): string { return this.entry.label; }
  get ready(): Promise<void> { return this.entry.ready; }
  get priority(): number { return this.entry.priority; }
  set priority(value: number) { this.entry.priority = value; }
  get texture(): Kind { return this.keeper.textureOf(this.entry); }

  cancel(): void {
    this.keeper.cancel(this.entry);
  }

  release(): void {
    this.keeper.release(this.entry);
  }
}

/** Lets the page have its turn. */
function nextTask(): Promise<void> {
  return new Promise((resolve) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      resolve();
    };
    port2.postMessage(0);
  });
}

/**
 * Loads textures in the background: placeholders at once, small levels first, the least used ones smaller where the budget
 * asks for it. Sends "change" events whose `detail` is the `KeptTexture`, whenever its state or texture changes. A failure
 * affects its own texture alone.
 */
export class TextureKeeper<Kind extends DeviceTexture = DeviceTexture> extends EventTarget {
  readonly device: TextureDevice<Kind>;
  private readonly pool: TexturePool;
  private readonly ownsPool: boolean;
  private readonly options: Required<Omit<KeeperOptions, "pool" | "workers">>;
  private readonly entries = new Set<Entry<Kind>>();
  private readonly byKey = new Map<string, Entry<Kind>>();
  private readonly placeholders = new Map<string, Kind>();
  private underWay = 0;
  private reserved = 0;
  private uploads: Promise<void> = Promise.resolve();
  private isFitting = false;
  private settled: (() => void)[] = [];

  constructor(device: TextureDevice<Kind>, options: KeeperOptions = {}) {
    super();
    this.device = device;
    this.ownsPool = options.pool === undefined;
    this.pool = options.pool ?? new TexturePool(options.workers === undefined ? {} : { workers: options.workers });
    this.options = {
      memory_budget: options.memory_budget ?? Infinity,
      early_side: options.early_side ?? 128,
      staging_budget: options.staging_budget ?? 256 << 10,
      task_milliseconds: options.task_milliseconds ?? 4,
      files_at_once: options.files_at_once ?? 3 * this.pool.workers,
    };
  }

  /** Asks for a texture by its file. Requests for the same address with the same options are one. */
  keep(source: FileSource, options: KeepOptions = {}, signal?: AbortSignal): KeptTexture<Kind> {
    const isAddress = typeof source === "string" || source instanceof URL;
    const { label: _, priority: __, ...settings } = options;
    const key = isAddress ? `${String(source)} ${JSON.stringify(settings)}` : undefined;
    let entry = key === undefined ? undefined : this.byKey.get(key);
    if (!entry || entry.state === "cancelled") {
      entry = new Entry<Kind>(this, source, options, key);
      this.entries.add(entry);
      if (key !== undefined) this.byKey.set(key, entry);
    }
    ++entry.users;
    entry.priority = Math.max(entry.priority, options.priority ?? 0);
    entry.lastUse = this.now();
    const { handle } = entry;
    if (signal?.aborted) handle.cancel();
    else signal?.addEventListener("abort", () => handle.cancel(), { once: true });
    queueMicrotask(() => this.startNext());
    return handle;
  }

  totals(): KeeperTotals {
    const totals: KeeperTotals = { textures: this.entries.size, waiting: 0, decoding: 0, uploading: 0, ready: 0, failed: 0, cancelled: 0, deviceBytes: 0 };
    for (const entry of this.entries) {
      ++totals[entry.state];
      totals.deviceBytes += entry.deviceBytes;
    }
    return totals;
  }

  /** When nothing is loading any more. */
  async whenSettled(): Promise<KeeperTotals> {
    await nextTask();
    while (this.isBusy()) await new Promise<void>((resolve) => this.settled.push(resolve));
    return this.totals();
  }

  /** In bytes; takes effect while textures are loaded again without their largest levels, or with them. */
  set memoryBudget(bytes: number) {
    this.options.memory_budget = bytes;
    this.fit();
  }

  get memoryBudget(): number {
    return this.options.memory_budget;
  }

  /** Frees all textures; what is loading is cancelled. */
  free(): void {
    for (const entry of [...this.entries]) this.remove(entry);
    for (const texture of this.placeholders.values()) texture.free();
    this.placeholders.clear();
    if (this.ownsPool) this.pool.close();
  }

  [Symbol.dispose](): void {
    this.free();
  }

  /** @internal */
  textureOf(entry: Entry<Kind>): Kind {
    entry.lastUse = this.now();
    if (entry.texture) {
      if (entry.dropped > 0) this.fit();
      return entry.texture;
    }
    return this.placeholder(entry);
  }

  /** @internal */
  cancel(entry: Entry<Kind>): void {
    if (entry.state === "ready" || entry.state === "failed") return;
    this.end(entry, "cancelled", new LatticeError("cancelled", "the texture was cancelled", entry.label));
    entry.controller.abort();
  }

  /** @internal */
  release(entry: Entry<Kind>): void {
    if (entry.users > 0 && --entry.users === 0) this.remove(entry);
  }

  private now(): number {
    // Textures of one frame count as used together, so that their order does not depend on the order of drawing.
    return Math.floor(performance.now() / 250);
  }

  private isBusy(): boolean {
    return this.underWay > 0 || [...this.entries].some(({ state }) => state === "waiting");
  }

  private remove(entry: Entry<Kind>): void {
    if (!this.entries.delete(entry)) return;
    if (entry.key !== undefined && this.byKey.get(entry.key) === entry) this.byKey.delete(entry.key);
    this.cancel(entry);
    entry.controller.abort();
    this.takeAway(entry);
    this.fit();
  }

  private tell(entry: Entry<Kind>): void {
    this.dispatchEvent(new CustomEvent("change", { detail: entry.handle }));
  }

  private end(entry: Entry<Kind>, state: "failed" | "cancelled", error: LatticeError): void {
    entry.state = state;
    entry.error = error;
    entry.settle.reject(error);
    this.tell(entry);
  }

  private placeholder(entry: Entry<Kind>): Kind {
    const hasFailed = entry.state === "failed" || entry.state === "cancelled";
    const role = entry.options.role ?? "color";
    const key = `${role} ${entry.kind} ${hasFailed}`;
    let texture = this.placeholders.get(key);
    if (!texture) {
      const { module } = this.device.library;
      const texel = new Texture(module, module.call<KeptInModule>("placeholder", { role, kind: entry.kind, has_failed: hasFailed }));
      texture = this.device.upload(texel, { label: "placeholder" });
      texel.free();
      this.placeholders.set(key, texture);
    }
    return texture;
  }

  private startNext(): void {
    while (this.underWay < this.options.files_at_once) {
      const waiting = [...this.entries].filter(({ state, isLoading }) => state === "waiting" && !isLoading);
      if (waiting.length === 0) break;
      void this.load(waiting.reduce((first, one) => (one.priority > first.priority ? one : first)));
    }
    if (this.isBusy()) return;
    for (const resolve of this.settled.splice(0)) resolve();
  }

  private loadOptions({ options }: Entry<Kind>): LoadOptions {
    const { role, sampler } = options;
    const bake = { ...(role ? { role } : {}), ...options.bake };
    const upload = { ...options.upload, ...(role ? { role } : {}), ...(sampler ? { sampler } : {}), staging_budget: this.options.staging_budget };
    return { bake, upload, ...(options.cube ? { cube: { ...(role ? { role } : {}), ...options.cube } } : {}) };
  }

  /** Loads a texture as the budget allows it; again if that has changed meanwhile. */
  private async load(entry: Entry<Kind>, isInTurn = false): Promise<void> {
    ++this.underWay;
    entry.isLoading = true;
    const isFirst = entry.state === "waiting";
    let file: OpenFile | undefined;
    try {
      if (isFirst) this.change(entry, "decoding");
      const { signal } = entry.controller;
      file = await this.pool.open(entry.source, this.device.profileRequest, this.loadOptions(entry), signal, (bytes, total) => {
        entry.arrived = total > 0 ? Math.min(bytes / total, 1) : 0;
      });
      entry.shape = file.shape;
      entry.kind = file.kind;
      if (isFirst && file.isStream) await this.showEarly(entry, file);
      const dropped = this.dropsOf().get(entry) ?? 0;
      const part = await file.part(dropped);
      if (isInTurn) await this.upload(entry, part, dropped, isFirst);
      else await this.show(entry, part, dropped, isFirst);
      if (!signal.aborted) {
        entry.error = undefined;
        this.change(entry, "ready");
        entry.settle.resolve();
      }
    } catch (error) {
      const known = error instanceof LatticeError ? error : new LatticeError("device", String(error));
      if (!entry.controller.signal.aborted) this.fail(entry, known.place === "" && entry.label !== "" ? known.at(entry.label) : known, isFirst);
    } finally {
      file?.close();
      entry.isLoading = false;
      --this.underWay;
      this.fit();
      this.startNext();
    }
  }

  private fail(entry: Entry<Kind>, error: LatticeError, isFirst: boolean): void {
    if (isFirst) return this.end(entry, "failed", error);
    // It stays as it was; the budget does not ask for it again.
    entry.error = error;
    this.tell(entry);
  }

  private change(entry: Entry<Kind>, state: KeeperState): void {
    entry.state = state;
    this.tell(entry);
  }

  private async showEarly(entry: Entry<Kind>, file: OpenFile): Promise<void> {
    const { width, height, levels } = file.shape;
    let dropped = 0;
    while (dropped + 1 < levels && Math.max(width, height) >> dropped > this.options.early_side) ++dropped;
    if (this.options.early_side > 0 && dropped > 0) await this.show(entry, await file.part(dropped), dropped, false);
  }

  /** Uploads levels, after the uploads that were asked for before, and puts them in the place of what is there. */
  private show(entry: Entry<Kind>, part: Part, dropped: number, isWhole: boolean): Promise<void> {
    const done = this.uploads.then(() => this.upload(entry, part, dropped, isWhole));
    this.uploads = done.catch(() => undefined);
    return done;
  }

  private async upload(entry: Entry<Kind>, part: Part, dropped: number, isWhole: boolean): Promise<void> {
    if (entry.controller.signal.aborted) return;
    if (isWhole) this.change(entry, "uploading");
    await this.makeRoom(entry, part.plan.shape.bytes);
    const source: UploadSource = { plan: part.plan, sampler: part.sampler, findings: part.findings, staging: (batch) => part.batches[batch]! };
    await nextTask();
    this.reserved += part.plan.shape.bytes;
    const uploading = this.device.begin(source, entry.label);
    try {
      await this.inTurns(uploading, entry, part.batches.length);
      if (entry.controller.signal.aborted) return uploading.free();
      const texture = uploading.finish();
      this.takeAway(entry);
      entry.texture = texture;
      entry.dropped = dropped;
      this.tell(entry);
    } catch (error) {
      uploading.free();
      throw error;
    } finally {
      this.reserved -= part.plan.shape.bytes;
    }
  }

  private async inTurns(uploading: Uploading<Kind>, entry: Entry<Kind>, batches: number): Promise<void> {
    for (let done = 0, isLeft = true; isLeft && !entry.controller.signal.aborted; ) {
      const end = performance.now() + this.options.task_milliseconds;
      do {
        isLeft = uploading.step();
        entry.batchesLeft = 1 - ++done / batches;
      } while (isLeft && performance.now() < end);
      if (isLeft) await nextTask();
    }
  }

  /** Keeps the budget: what is there of the texture goes first, then others lose what they have to lose. */
  private async makeRoom(entry: Entry<Kind>, bytes: number): Promise<void> {
    while (this.reserved + this.totals().deviceBytes + bytes > this.options.memory_budget) {
      if (this.takeAway(entry)) continue;
      const drops = this.dropsOf();
      const tooLarge = [...this.entries].filter((one) => one !== entry && one.texture && (drops.get(one) ?? 0) > one.dropped).sort((a, b) => a.lastUse - b.lastUse);
      const other = tooLarge.find(({ isLoading, error }) => !isLoading && !error) ?? tooLarge[0];
      if (!other) throw new LatticeError("memory", `the budget of ${this.options.memory_budget} bytes has no room for its ${bytes} bytes`);
      // One that is being loaded again already waits for its turn.
      if (other.isLoading || other.error) this.takeAway(other);
      else await this.load(other, true);
    }
  }

  private takeAway(entry: Entry<Kind>): boolean {
    if (!entry.texture) return false;
    entry.texture.free();
    entry.texture = undefined;
    return true;
  }

  private dropsOf(): Map<Entry<Kind>, number> {
    const sized = [...this.entries].filter(({ shape, state }) => shape !== undefined && state !== "failed" && state !== "cancelled");
    const drops = levelsToDrop(sized.map(({ shape, lastUse }) => ({ level_bytes: shape!.level_bytes, lastUse })), this.options.memory_budget);
    return new Map(sized.map((entry, i) => [entry, drops[i]!]));
  }

  /** Loads textures again that are to be smaller, and where there is room then those that are to be larger. */
  private fit(): void {
    if (this.isFitting) return;
    this.isFitting = true;
    queueMicrotask(() => {
      this.isFitting = false;
      const wanted = [...this.dropsOf()].filter(([entry, drop]) => drop !== entry.dropped && entry.state === "ready" && !entry.isLoading && !entry.error);
      const smaller = wanted.filter(([entry, drop]) => drop > entry.dropped);
      let free = this.options.memory_budget - this.totals().deviceBytes - this.reserved;
      for (const [entry] of smaller) void this.load(entry);
      if (smaller.length > 0) return;
      for (const [entry, drop] of wanted) {
        const more = bytesWithout(entry.shape!.level_bytes, drop);
        if (more > free || this.underWay >= this.options.files_at_once) continue;
        free -= more;
        void this.load(entry);
      }
    });
  }
}
