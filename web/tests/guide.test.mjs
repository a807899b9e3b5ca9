// The JavaScript of the guide and of the package's README, each block as a page of its own in Debian's Chromium. YLAT is the tool.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { copyFileSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { fileURLToPath } from "node:url";
import { openPage, troubleIn } from "./browser.mjs";

const ylat = process.env.YLAT ?? fileURLToPath(new URL("../../build/release/tool/ylat", import.meta.url));
const data = fileURLToPath(new URL("../../demo/data", import.meta.url));
const dist = fileURLToPath(new URL("../dist", import.meta.url));
let folder;

before(() => {
  folder = mkdtempSync(join(tmpdir(), "guide-"));
  symlinkSync(dist, join(folder, "dist"));
  for (const name of ["slate.png", "dawn.hdr"]) copyFileSync(join(data, name), join(folder, name));
  execFileSync(ylat, ["bake", join(data, "slate.png"), "-o", join(folder, "wall.ktx2")], { stdio: "ignore" });
});
after(() => rmSync(folder, { recursive: true, force: true }));

/** The blocks of JavaScript in a document, with the lines that they begin at. */
function blocksOf(document) {
  const text = readFileSync(document, "utf8");
  return [...text.matchAll(/```js\n([^]*?)```/g)].map((match) => ({ line: text.slice(0, match.index).split("\n").length, block: match[1] }));
}

/** What a block takes for granted, and what is looked at when it has run. */
const given = {
  device: `import { Library, WebGlDevice } from "yellow-lattice";
    const device = new WebGlDevice(await Library.reading(), canvas.getContext("webgl2"));`,
  gpuDevice: `const gpuDevice = await (await navigator.gpu.requestAdapter()).requestDevice();`,
};
const looked = {
  onDevice: "window.result = { shape: onDevice.shape };",
  wall: `await new Promise((done) => {
      const look = () => (wall.state === "ready" || wall.state === "failed" ? done() : setTimeout(look, 50));
      look();
    });
    window.result = { state: wall.state, shape: wall.texture.shape };`,
  address: "window.result = { address };",
};

function pageOf(block) {
  const before = Object.entries(given).filter(([name]) => new RegExp(`\\b${name}\\b`).test(block) && !new RegExp(`const ${name}\\b`).test(block)).map(([, text]) => text);
  const begin = block.includes("function frame()") ? "frame();" : "";
  const after = Object.entries(looked).filter(([name]) => new RegExp(`const ${name}\\b`).test(block)).map(([, text]) => text);
  assert.equal(after.length, 1, `nothing is known to look at in\n${block}`);
  return `<!doctype html><meta charset="utf-8"><title>working</title><canvas width="64" height="64"></canvas>
    <script type="importmap">{ "imports": { "yellow-lattice": "/dist/index.js" } }</script>
    <script>
      const fail = (reason) => { window.result = { failed: String(reason?.stack ?? reason) }; document.title = "done"; };
      addEventListener("error", (event) => fail(event.error ?? event.message));
      addEventListener("unhandledrejection", (event) => fail(event.reason));
      const canvas = document.querySelector("canvas");
    </script>
    <script type="module">
    ${before.join("\n")}
    ${block}
    ${begin}
    ${after.join("\n")}
    document.title = "done";
    </script>`;
}

const documents = ["docs/guide/webgl.md", "docs/guide/webgpu.md", "web/README.md"];
for (const document of documents) {
  const blocks = blocksOf(fileURLToPath(new URL(`../../${document}`, import.meta.url)));
  test(`${document} shows code`, () => assert.ok(blocks.length > 0));
  for (const { line, block } of blocks)
    test(`the code at line ${line} of ${document} runs`, async () => {
      writeFileSync(join(folder, "page.html"), pageOf(block));
      const { page, said, close } = await openPage("page.html", { root: folder, timeout: 60000 });
      try {
        const { failed, shape, state = "ready", address } = await page.evaluate("window.result");
        assert.equal(failed, undefined, failed);
        assert.equal(state, "ready");
        if (address) assert.match(address, /^wall\.\w+\.ktx2$/);
        else assert.ok(shape.levels > 5 && shape.width >= 64, JSON.stringify(shape));
        assert.deepEqual(troubleIn(said), []);
      } finally {
        await close();
      }
    });
}
