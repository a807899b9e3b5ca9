// What would be published, installed in projects outside: by Node, by a page without a bundler, by Vite.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { execFileSync } from "node:child_process";
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { gzipSync } from "node:zlib";
import { openPage, troubleIn } from "./browser.mjs";
import { demo } from "./twin.mjs";

const web = fileURLToPath(new URL("../", import.meta.url));
let folder;
let packed;

before(() => {
  folder = mkdtempSync(join(tmpdir(), "yellow-lattice-"));
  packed = JSON.parse(execFileSync("npm", ["pack", "--json", "--pack-destination", folder], { cwd: web, stdio: ["ignore", "pipe", "ignore"] }))[0];
  writeFileSync(join(folder, "package.json"), JSON.stringify({ name: "outside", type: "module", private: true }));
  execFileSync("npm", ["install", "--offline", "--no-audit", "--no-fund", join(folder, packed.filename)], { cwd: folder, stdio: "ignore" });
});
after(() => rmSync(folder, { recursive: true }));

test("the package has what it needs and no more", () => {
  const names = packed.files.map((file) => file.path);
  for (const name of ["dist/index.js", "dist/index.d.ts", "dist/worker.js", "dist/reading.wasm", "dist/baking.wasm", "LICENSE"]) assert.ok(names.includes(name), name);
  assert.ok(names.every((name) => name.startsWith("dist/") || ["package.json", "README.md", "LICENSE"].includes(name)), names.join(" "));
  assert.equal(JSON.parse(readFileSync(join(folder, "node_modules/yellow-lattice/package.json"))).dependencies, undefined);
});

test("the package by Node", () => {
  writeFileSync(join(folder, "program.mjs"), `
    import { readFileSync } from "node:fs";
    import { Library } from "yellow-lattice";
    const library = await Library.baking();
    const label = await library.bake(readFileSync(${JSON.stringify(demo("label.png"))}), { role: "color" });
    console.log(JSON.stringify([label.shape.width, label.shape.height, label.shape.levels, label.shape.format]));
  `);
  const said = execFileSync("node", ["program.mjs"], { cwd: folder, encoding: "utf8" });
  assert.deepEqual(JSON.parse(said), [45, 29, 6, "rgba8-srgb"]);
});

test("its types are those of a program in TypeScript", () => {
  writeFileSync(join(folder, "program.ts"), `
    import { Library, TextureKeeper, WebGlDevice, type KeptTexture, type WebGlTexture } from "yellow-lattice";
    export async function start(gl: WebGL2RenderingContext): Promise<KeptTexture<WebGlTexture>> {
      const keeper = new TextureKeeper(new WebGlDevice(await Library.reading(), gl), { memory_budget: 64 << 20 });
      return keeper.keep("wall.ktx2", { role: "color", sampler: "aniso=8" });
    }
  `);
  const tsc = join(web, "node_modules/.bin/tsc");
  execFileSync(tsc, ["--noEmit", "--strict", "--target", "es2022", "--module", "nodenext", "--lib", "es2022,dom,dom.iterable,esnext.disposable", "program.ts"], { cwd: folder });
  writeFileSync(join(folder, "wrong.ts"), `import { Library } from "yellow-lattice"; const library: Library = await Library.reading(); library.bake(1);`);
  assert.throws(() => execFileSync(tsc, ["--noEmit", "--strict", "--target", "es2022", "--module", "nodenext", "wrong.ts"], { cwd: folder, stdio: "ignore" }));
});

/** A page that loads a picture and a texture file through a keeper's workers. */
const script = `
  import { Library, TextureKeeper, WebGlDevice } from "yellow-lattice";
  const library = await Library.reading();
  const gl = document.createElement("canvas").getContext("webgl2");
  const keeper = new TextureKeeper(new WebGlDevice(library, gl), { workers: 1 });
  const kept = [keeper.keep("/data/label.png", { role: "color" }), keeper.keep("/data/nowhere.png")];
  const totals = await keeper.whenSettled();
  window.result = { totals, shape: kept[0].texture.shape, message: kept[1].error.message, error: gl.getError() };
  document.title = "done";
`;

async function check(root, path = "index.html") {
  const { page, said, close } = await openPage(path, { root, timeout: 60000 });
  try {
    const { totals, shape, message, error } = await page.evaluate("window.result");
    assert.equal(totals.ready, 1);
    assert.equal(totals.failed, 1);
    assert.deepEqual([shape.width, shape.height, shape.levels], [45, 29, 6]);
    assert.match(message, /nowhere\.png: the server answers 404/);
    assert.equal(error, 0);
    assert.deepEqual(troubleIn(said).filter((line) => !line.includes("404")), []);
  } finally {
    await close();
  }
}

test("the package in a page without a bundler", async () => {
  const site = join(folder, "plain");
  mkdirSync(site);
  cpSync(join(folder, "node_modules/yellow-lattice/dist"), join(site, "lattice"), { recursive: true });
  writeFileSync(join(site, "index.html"), `<!doctype html><title>working</title>
    <script type="importmap">{ "imports": { "yellow-lattice": "./lattice/index.js" } }</script><script type="module">${script}</script>`);
  await check(site);
});

test("the package by Vite", async () => {
  const site = join(folder, "bundled");
  mkdirSync(site);
  writeFileSync(join(site, "index.html"), `<!doctype html><title>working</title><script type="module" src="./main.js"></script>`);
  writeFileSync(join(site, "main.js"), script);
  execFileSync("node", [join(web, "node_modules/vite/bin/vite.js"), "build", "--logLevel", "warn", "--target", "es2022"], { cwd: site, stdio: "inherit" });
  await check(join(site, "dist"));
});

test("the modules do not grow", () => {
  // Gzipped KB as they were measured; the aims are 180 and 700.
  for (const [name, most] of [["reading", 216], ["baking", 890]]) {
    const packed = gzipSync(readFileSync(join(web, "dist", `${name}.wasm`)), { level: 9 }).length;
    assert.ok(packed <= most * 1024, `${name}: ${packed} bytes`);
  }
});
