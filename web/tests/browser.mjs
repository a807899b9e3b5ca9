// Debian's Chromium with a page of tests/pages, served from this folder.
import { chromium } from "playwright-core";
import { serve } from "../examples/serve.mjs";

export { serve };

/** What a console says that it should not; that reading pixels back takes time is no news. */
export const troubleIn = (said) => said.filter((line) => /error|warning/i.test(line) && !line.includes("GPU stall due to ReadPixels"));

/** Debian's Chromium without a window. */
export const launch = () => chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
    "--enable-unsafe-webgpu", "--enable-unsafe-swiftshader"],
});

/** Opens a page of this folder, or of `root`, calls `opened` before it loads, and waits until its title says that it is done; what the console says is in `said`. */
export async function openPage(path, { timeout = 240000, colorScheme = "light", root, opened, done } = {}) {
  const server = await serve(root);
  const browser = await launch();
  const close = async () => {
    await browser.close();
    server.close();
  };
  const said = [];
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme });
    page.on("console", (message) => said.push(`${message.type()}: ${message.text()}`));
    page.on("pageerror", (error) => said.push(`error: ${error}`));
    await opened?.(page, browser);
    await page.goto(`http://localhost:${server.address().port}/${path}`);
    await page.waitForFunction('document.title.endsWith("done")', null, { timeout });
    await done?.(browser);
    return { page, said, close };
  } catch (error) {
    await close();
    throw new Error(`${error.message}\n${said.join("\n")}`);
  }
}

/** Runs a page's test; gives its result and what the console said. */
export async function runPage(name, { path = `tests/pages/page.html?test=${name}`, ...options } = {}) {
  const { page, said, close } = await openPage(path, options);
  try {
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/${name}.png` });
    return { result: await page.evaluate("window.result"), said };
  } finally {
    await close();
  }
}
