// A module of WebAssembly and the same calls natively, behind one face: answers, and hashes of memory.
import { spawn } from "node:child_process";
import { createInterface } from "node:readline";
import { readFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { Module } from "../dist/index.js";

export const root = fileURLToPath(new URL("../../", import.meta.url));
export const demo = (name) => `${root}demo/data/${name}`;

export function hashOf(bytes) {
  // FNV-1a of 64 bits, in halves.
  let low = 0x84222325, high = 0xcbf29ce4;
  for (const byte of bytes) {
    low ^= byte;
    // times 0x100000001b3
    const product = (low >>> 0) * 0x1b3;
    const carried = Math.floor(product / 0x100000000);
    high = (Math.imul(high, 0x1b3) + carried + (low << 8)) >>> 0;
    low = product >>> 0;
  }
  return high.toString(16).padStart(8, "0") + (low >>> 0).toString(16).padStart(8, "0");
}

export class WasmSide {
  constructor(module) {
    this.module = module;
    this.files = [];
  }
  static async load(name) {
    return new WasmSide(await Module.load(readFileSync(new URL(`../dist/${name}.wasm`, import.meta.url))));
  }
  async ask(name, request, file) {
    try {
      return file ? this.module.callWith(name, readFileSync(file), request) : this.module.call(name, request);
    } catch (error) {
      return { error: { kind: error.kind, message: error.message } };
    }
  }
  async hash(place) {
    return hashOf(this.module.view(place));
  }
  close() {}
}

export class NativeSide {
  constructor() {
    this.child = spawn(process.env.YL_WEB_TWIN ?? `${root}build/release/tests/web_twin`, { stdio: ["pipe", "pipe", "inherit"] });
    this.lines = createInterface({ input: this.child.stdout })[Symbol.asyncIterator]();
  }
  async line(request) {
    this.child.stdin.write(JSON.stringify(request) + "\n");
    const { value, done } = await this.lines.next();
    if (done) throw new Error("the native side has ended");
    return JSON.parse(value);
  }
  async ask(name, request, file) {
    const bytes = file ? { bytes: await this.line({ load: file }) } : {};
    const answer = await this.line({ call: name, ...request, ...bytes });
    if (answer.error) {
      const { kind, message, place } = answer.error;
      return { error: { kind, message: place === "" ? message : `${place}: ${message}` } };
    }
    return answer;
  }
  async hash(place) {
    return this.line({ hash: place });
  }
  close() {
    this.child.stdin.end();
  }
}
