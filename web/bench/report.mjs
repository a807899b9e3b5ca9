// How large the page of a hundred textures of 1024 x 1024 is, how long `ylat report` takes for it, and how soon Chromium shows it and
// one of them: node bench/report.mjs [YLAT]
import { execFileSync } from "node:child_process";
import { copyFileSync, mkdtempSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { launch } from "../tests/browser.mjs";

const ylat = process.argv[2] ?? fileURLToPath(new URL("../../build/release/tool/ylat", import.meta.url));
const data = fileURLToPath(new URL("../../demo/data", import.meta.url));
const folder = mkdtempSync(join(tmpdir(), "report-"));
const run = (...words) => execFileSync(ylat, words, { cwd: folder, stdio: ["ignore", "ignore", "inherit"] });
const since = (begin) => `${((performance.now() - begin) / 1000).toFixed(2)} s`;
try {
  const sources = ["slate.png", "lattice.png", "moss.png", "slate_normal.png"];
  sources.forEach((name, i) => run("rework", join(data, name), "--resize", "1024x1024", "-o", `large${i}.png`));
  const files = Array.from({ length: 100 }, (_, i) => `many_${i}.png`);
  files.forEach((file, i) => copyFileSync(join(folder, `large${i % sources.length}.png`), join(folder, file)));
  let begin = performance.now();
  run("report", ...files, "-o", "many.html");
  console.log(`made in ${since(begin)}, ${(statSync(join(folder, "many.html")).size / 2 ** 20).toFixed(1)} MiB`);
  const browser = await launch();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  begin = performance.now();
  await page.goto(`file://${join(folder, "many.html")}`);
  await page.waitForSelector("section[aria-label=Textures] tbody tr:nth-child(100)");
  console.log(`the overview is there after ${since(begin)}`);
  begin = performance.now();
  await page.click("section[aria-label=Textures] tbody tr:nth-child(50) a");
  await page.waitForFunction(() => document.querySelector("#live")?.width === 640);
  console.log(`a texture with its live view after ${since(begin)} more`);
  await browser.close();
} finally {
  rmSync(folder, { recursive: true, force: true });
}
