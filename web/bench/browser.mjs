// Speed in Debian's Chromium, beside what the browser has of its own: node bench/browser.mjs
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { openPage } from "../tests/browser.mjs";

const ms = (value) => `${value.toFixed(1)} ms`.padStart(11);

async function run(bench) {
  const { page, close } = await openPage(`bench/page.html?bench=${bench}`);
  const result = await page.evaluate("window.result");
  await close();
  if (result.failed) throw new Error(result.failed);
  return result;
}

/** Tasks of the page's own thread between the two lines of its console, by a trace of the browser's. */
async function tasks() {
  const folder = mkdtempSync(join(tmpdir(), "yl-trace-"));
  const path = join(folder, "trace.json");
  const { page, close } = await openPage("bench/page.html?bench=responsiveness", {
    opened: (opened, browser) => browser.startTracing(opened, { path, categories: ["toplevel", "devtools.timeline", "blink.user_timing", "disabled-by-default-devtools.timeline"] }),
    done: (browser) => browser.stopTracing(),
  });
  const totals = await page.evaluate("window.result");
  await close();
  const { traceEvents } = JSON.parse(readFileSync(path));
  rmSync(folder, { recursive: true });
  const mark = traceEvents.find(({ name, cat }) => name === "loading" && cat.includes("user_timing"));
  const own = traceEvents.filter(({ pid, tid, name, dur, ts }) => pid === mark.pid && tid === mark.tid && name.endsWith("RunTask") && dur && ts >= mark.ts);
  // Of the processor: on a machine that does other things as well a task may wait.
  return { totals, times: own.map(({ dur, tdur }) => (tdur ?? dur) / 1000).sort((a, b) => b - a) };
}

for (const { name, own, browsers } of (await run("pictures")).rows)
  console.log(`${name.padEnd(14)} library ${ms(own)}   browser ${ms(browsers)}   ratio ${(own / browsers).toFixed(2)}`);
const { totals, times } = await tasks();
console.log(`${totals.ready} textures of 512 by two workers: ${times.length} tasks of the page, the longest took the processor ${times.slice(0, 6).map((time) => time.toFixed(1)).join(", ")} ms; ${times.filter((time) => time > 8).length} over 8 ms`);
