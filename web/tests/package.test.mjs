// What would be published, installed in a project outside.
import assert from "node:assert/strict";
import { test } from "node:test";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { gzipSync } from "node:zlib";
import { demo } from "./twin.mjs";

const web = fileURLToPath(new URL("../", import.meta.url));

test("the package in a project outside, by Node", () => {
  const folder = mkdtempSync(join(tmpdir(), "yellow-lattice-"));
  try {
    const packed = JSON.parse(execFileSync("npm", ["pack", "--json", "--pack-destination", folder], { cwd: web, stdio: ["ignore", "pipe", "ignore"] }));
    const names = packed[0].files.map((file) => file.path);
    for (const name of ["dist/index.js", "dist/index.d.ts", "dist/reading.wasm", "dist/baking.wasm"]) assert.ok(names.includes(name), name);
    assert.ok(names.every((name) => name.startsWith("dist/") || ["package.json", "README.md", "LICENSE"].includes(name)), names.join(" "));
    writeFileSync(join(folder, "package.json"), JSON.stringify({ name: "outside", type: "module", private: true }));
    execFileSync("npm", ["install", "--offline", "--no-audit", "--no-fund", join(folder, packed[0].filename)], { cwd: folder, stdio: "ignore" });
    writeFileSync(join(folder, "program.mjs"), `
      import { readFileSync } from "node:fs";
      import { Library } from "yellow-lattice";
      const library = await Library.baking();
      const label = await library.bake(readFileSync(${JSON.stringify(demo("label.png"))}), { role: "color" });
      console.log(JSON.stringify([label.shape.width, label.shape.height, label.shape.levels, label.shape.format]));
    `);
    const said = execFileSync("node", ["program.mjs"], { cwd: folder, encoding: "utf8" });
    assert.deepEqual(JSON.parse(said), [45, 29, 6, "rgba8-srgb"]);
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test("the modules do not grow", () => {
  // Gzipped KB as they were measured; the aims are 180 and 700.
  for (const [name, most] of [["reading", 290], ["baking", 1080]]) {
    const packed = gzipSync(readFileSync(join(web, "dist", `${name}.wasm`)), { level: 9 }).length;
    assert.ok(packed <= most * 1024, `${name}: ${packed} bytes`);
  }
});
