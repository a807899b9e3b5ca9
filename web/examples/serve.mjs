// Serves this folder, with the Glasshouse's data under /data/: node examples/serve.mjs [PORT]
import { createServer } from "node:http";
import { readFile } from "node:fs/promises";
import { extname, join, normalize } from "node:path";
import { fileURLToPath } from "node:url";

const folder = fileURLToPath(new URL("../", import.meta.url));
const data = fileURLToPath(new URL("../../demo/data/", import.meta.url));
const types = { ".html": "text/html", ".js": "text/javascript", ".mjs": "text/javascript", ".css": "text/css", ".wasm": "application/wasm", ".json": "application/json" };

export async function serve(root = folder, port = 0) {
  const server = createServer(async (request, answer) => {
    const path = normalize(decodeURIComponent(new URL(request.url, "http://localhost").pathname));
    if (path === "/favicon.ico") return answer.writeHead(204).end();
    try {
      const bytes = await readFile(path.startsWith("/data/") ? join(data, path.slice(6)) : join(root, path));
      const headers = { "Content-Type": types[extname(path)] ?? "application/octet-stream", "Accept-Ranges": "bytes" };
      const range = /^bytes=(\d+)-(\d*)$/.exec(request.headers.range ?? "");
      if (!range) return answer.writeHead(200, headers).end(bytes);
      const first = Number(range[1]), last = Math.min(range[2] ? Number(range[2]) : Infinity, bytes.length - 1);
      answer.writeHead(206, { ...headers, "Content-Range": `bytes ${first}-${last}/${bytes.length}` }).end(bytes.subarray(first, last + 1));
    } catch {
      answer.writeHead(404).end();
    }
  });
  await new Promise((done) => server.listen(port, "127.0.0.1", done));
  return server;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const server = await serve(folder, Number(process.argv[2] ?? 8080));
  const at = `http://localhost:${server.address().port}/examples`;
  for (const page of ["one-texture", "one-texture-webgpu", "several-and-late", "sky", "model", "compare-samplers"]) console.log(`${at}/${page}.html`);
}
