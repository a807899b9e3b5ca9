// Debian's Chromium with a page of tests/pages, served from this folder.
import { chromium } from "playwright-core";
import { createServer } from "node:http";
import { readFile } from "node:fs/promises";
import { extname, join, normalize } from "node:path";
import { fileURLToPath } from "node:url";

const folder = fileURLToPath(new URL("../", import.meta.url));
const types = { ".html": "text/html", ".js": "text/javascript", ".mjs": "text/javascript", ".wasm": "application/wasm", ".json": "application/json" };

export async function serve(root = folder) {
  const server = createServer(async (request, answer) => {
    const path = normalize(decodeURIComponent(new URL(request.url, "http://localhost").pathname));
    if (path === "/favicon.ico") return answer.writeHead(204).end();
    try {
      const bytes = await readFile(join(root, path));
      const range = /^bytes=(\d+)-(\d*)$/.exec(request.headers.range ?? "");
      const headers = { "Content-Type": types[extname(path)] ?? "application/octet-stream", "Accept-Ranges": "bytes" };
      if (!range) return answer.writeHead(200, headers).end(bytes);
      const first = Number(range[1]), last = Math.min(range[2] ? Number(range[2]) : Infinity, bytes.length - 1);
      answer.writeHead(206, { ...headers, "Content-Range": `bytes ${first}-${last}/${bytes.length}` }).end(bytes.subarray(first, last + 1));
    } catch {
      answer.writeHead(404).end();
    }
  });
  await new Promise((done) => server.listen(0, "127.0.0.1", done));
  return server;
}

/** Runs a page's test; gives its result and what the console said. */
export async function runPage(name, { timeout = 240000, args = [] } = {}) {
  const server = await serve();
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    args: ["--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync",
      "--enable-unsafe-webgpu", "--enable-unsafe-swiftshader", ...args],
  });
  try {
    const page = await browser.newPage();
    const said = [];
    page.on("console", (message) => said.push(`${message.type()}: ${message.text()}`));
    page.on("pageerror", (error) => said.push(`error: ${error}`));
    await page.goto(`http://localhost:${server.address().port}/tests/pages/page.html?test=${name}`);
    await page.waitForFunction('document.title === "done"', null, { timeout });
    return { result: await page.evaluate("window.result"), said };
  } finally {
    await browser.close();
    server.close();
  }
}
