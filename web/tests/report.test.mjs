// The page of `ylat report` in Debian's Chromium: it works by mouse and keyboard, shows what `ylat draw` draws, and is
// accessible. YLAT is the tool.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { copyFileSync, mkdtempSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { fileURLToPath } from "node:url";
import { launch, troubleIn } from "./browser.mjs";

const ylat = process.env.YLAT ?? fileURLToPath(new URL("../../build/release/tool/ylat", import.meta.url));
const data = fileURLToPath(new URL("../../demo/data", import.meta.url));
const axe = readFileSync(new URL("../node_modules/axe-core/axe.min.js", import.meta.url), "utf8");
const hostile = "<img src=x onerror=alert(1)>.png";
let folder;
const run = (...words) => execFileSync(ylat, words, { cwd: folder, encoding: "utf8", stdio: ["ignore", "pipe", "pipe"] });

before(() => {
  folder = mkdtempSync(join(tmpdir(), "report-"));
  copyFileSync(join(data, "label.png"), join(folder, hostile));
  run("bake", join(data, "slate.png"), "--as", "bc7", "-o", "slate.ktx2");
  run("bake", join(data, "slate.png"), "-o", "plain.ktx2");
  run("bake", join(data, "lattice.png"), "--as", "etc2-rgba8-srgb", "-o", "lattice.ktx2");
  run("cube", join(data, "dawn.hdr"), "-o", "dawn.ktx2");
  run("report", "slate.ktx2", "plain.ktx2", "lattice.ktx2", "dawn.ktx2", hostile, join(data, "moss.png"), join(data, "planter.glb"),
    "--source", join(data, "slate.png"), "--source", join(data, "lattice.png"), "--title", "The <b>Glasshouse</b>", "-o", "page.html");
});
after(() => rmSync(folder, { recursive: true, force: true }));

async function open({ hash = "", page: name = "page.html", colorScheme = "light", hasWebGl = true } = {}) {
  const browser = await launch();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme });
  const said = [];
  page.on("console", (message) => said.push(`${message.type()}: ${message.text()}`));
  page.on("pageerror", (error) => said.push(`error: ${error}`));
  page.on("dialog", (dialog) => said.push(`error: a dialog says ${dialog.message()}`));
  page.on("request", (request) => { if (!/^(file|data|blob):/.test(request.url())) said.push(`error: ${request.url()} is asked for`); });
  if (!hasWebGl)
    await page.addInitScript(() => {
      const { getContext } = OffscreenCanvas.prototype;
      OffscreenCanvas.prototype.getContext = function (kind, ...options) {
        return kind === "webgl2" ? null : getContext.call(this, kind, ...options);
      };
    });
  await page.goto(`file://${join(folder, name)}${hash}`);
  return { page, said, close: () => browser.close() };
}

async function withPage(options, work) {
  const opened = await open(options);
  try {
    await work(opened.page);
    assert.deepEqual(troubleIn(opened.said), []);
  } finally {
    await opened.close();
  }
}

const names = (page) => page.$$eval("section[aria-label=Textures] td.name a", (links) => links.map((link) => link.textContent));

/** Opens a texture by its link and waits until its live view is drawn. */
async function openTexture(page, name) {
  await page.click(`section[aria-label=Textures] a:text-is(${JSON.stringify(name)})`);
  await page.waitForFunction(() => document.querySelector("#live")?.width === 640);
}

const control = (page, panel, label) => page.locator(`section[aria-label="${panel}"] label`).filter({ hasText: label }).locator("input, select").first();
const pixelsOf = (page, selector) => page.$eval(selector, (canvas) => {
  const context = new OffscreenCanvas(canvas.width, canvas.height).getContext("2d", { willReadFrequently: true });
  context.drawImage(canvas, 0, 0);
  return Array.from(context.getImageData(0, 0, canvas.width, canvas.height).data);
});
const settled = (page) => page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 150)))));
const change = async (page, panel, label, value) => {
  const input = control(page, panel, label);
  if ((await input.evaluate((element) => element.tagName)) === "SELECT") await input.selectOption(value);
  else await input.evaluate((element, to) => {
    element.value = to;
    element.dispatchEvent(new Event("input", { bubbles: true }));
    element.dispatchEvent(new Event("change", { bubbles: true }));
  }, value);
};
const set = async (page, panel, label, value) => {
  await change(page, panel, label, value);
  await settled(page);
};

test("the table of textures sorts, filters and searches", () => withPage({}, async (page) => {
  assert.equal(await page.textContent("h1"), "The <b>Glasshouse</b>");
  const all = await names(page);
  assert.ok(all.length >= 10 && all.includes(hostile), all.join());
  await page.click("th button:text-is('Texture')");
  assert.deepEqual(await names(page), [...all].sort((a, b) => (a.toLowerCase() < b.toLowerCase() ? -1 : Number(a.toLowerCase() > b.toLowerCase()))));
  await page.click("th button:text-is('On the GPU')");
  await page.click("th button:text-is('On the GPU')");
  assert.equal((await names(page))[0], "dawn.ktx2");
  assert.equal(await page.getAttribute("th:has(button:text-is('On the GPU'))", "aria-sort"), "descending");
  await page.selectOption("label:has-text('Format') select", "bc7-srgb");
  assert.deepEqual(await names(page), ["slate.ktx2"]);
  await page.selectOption("label:has-text('Format') select", "");
  await page.fill("input[type=search]", "lattice");
  assert.ok((await names(page)).every((name) => name.includes("lattice")));
  await page.fill("input[type=search]", "no such texture");
  assert.deepEqual(await names(page), []);
  assert.match(await page.textContent("[role=status]"), /^0 of /);
  assert.match(await page.textContent("section[aria-label='Model planter.glb']"), /base color/);
  assert.match(await page.textContent("section[aria-label='Not shown']"), /terracotta/);
}));

test("levels, channels and the wiper show what they say", () => withPage({}, async (page) => {
  await openTexture(page, "slate.ktx2");
  const picture = "section[aria-label=Picture] canvas";
  const size = () => page.$eval(picture, ({ width, height }) => [width, height]);
  await settled(page);
  assert.deepEqual(await size(), [512, 512]);
  await set(page, "Picture", "Level", 3);
  assert.deepEqual(await size(), [64, 64]);
  await set(page, "Picture", "Show", "red");
  const gray = await pixelsOf(page, picture);
  assert.ok(gray.every((_, i) => i % 4 !== 0 || (gray[i] === gray[i + 1] && gray[i] === gray[i + 2])));
  await set(page, "Picture", "Show", "color");
  const colors = await pixelsOf(page, picture);
  assert.ok(gray.every((value, i) => i % 4 !== 0 || value === colors[i]), "red is the colours' red");

  const compared = await page.$("section[aria-label^='Compressed beside']");
  const after = await compared.$("canvas:nth-of-type(2)");
  await compared.$eval("input[type=range]", (input) => { input.value = 30; input.dispatchEvent(new Event("input")); });
  assert.match(await after.evaluate((canvas) => canvas.style.clipPath), /30%/);
  await (await compared.$("select")).selectOption("difference");
  await settled(page);
  const map = await pixelsOf(page, "section[aria-label^='Compressed beside'] canvas:nth-of-type(2)");
  assert.ok(map.some((value, i) => i % 4 === 0 && value > 0) && map.some((value, i) => i % 4 === 0 && value === 0), "BC7 differs here and there");
  assert.match(await compared.textContent(), /\d\d\.\d\d dB/);
}));

/** Share of the live view's pixels whose channels are all within 3 codes of what the tool has drawn. */
const shareDrawn = (page, file) => page.evaluate(async (text) => {
  const bytes = Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
  const bitmap = await createImageBitmap(new Blob([bytes], { type: "image/png" }), { colorSpaceConversion: "none" });
  const [a, b] = [bitmap, document.querySelector("#live")].map((picture) => {
    const context = new OffscreenCanvas(picture.width, picture.height).getContext("2d", { willReadFrequently: true });
    context.drawImage(picture, 0, 0);
    return context.getImageData(0, 0, picture.width, picture.height).data;
  });
  if (a.length !== b.length) throw new Error("of another size");
  let within = 0;
  for (let i = 0; i < a.length; i += 4) within += [0, 1, 2].every((c) => Math.abs(a[i + c] - b[i + c]) <= 3) ? 1 : 0;
  return within / (a.length / 4);
}, readFileSync(join(folder, file)).toString("base64"));

const samplers = [
  { mag: "nearest", min: "nearest", mip: "none", aniso: "1", bias: "0" },
  { mag: "linear", min: "linear", mip: "nearest", aniso: "1", bias: "0.5" },
  { mag: "linear", min: "linear", mip: "linear", aniso: "1", bias: "0", wrap: "mirror" },
  { mag: "linear", min: "nearest", mip: "linear", aniso: "1", bias: "-0.5" },
];
for (const [name, scenes] of [["plain.ktx2", ["floor", "panel"]], ["slate.ktx2", ["floor"]], ["lattice.ktx2", ["panel"]], ["dawn.ktx2", ["sky"]]])
  test(`the live view of ${name} is what ylat draws`, () => withPage({}, async (page) => {
    await openTexture(page, name);
    for (const scene of scenes) {
      await set(page, "Live view", "Scene", String(["floor", "panel"].indexOf(scene) < 0 ? 0 : ["floor", "panel"].indexOf(scene)));
      for (const { mag, min, mip, aniso, bias, wrap = "repeat" } of samplers) {
        for (const [label, value] of [["mag", mag], ["min", min], ["mip", mip], ["anisotropy", aniso], ["bias", bias]]) await change(page, "Live view", label, value);
        if (scene !== "sky") for (const axis of ["wrap u", "wrap v"]) await change(page, "Live view", axis, wrap);
        await settled(page);
        const text = `mag=${mag} min=${min} mip=${mip} aniso=${aniso} bias=${bias} wrap=${wrap}`;
        run("draw", scene, name, "--sampler", text, "-o", "drawn.png");
        const share = await shareDrawn(page, "drawn.png");
        assert.ok(share >= 0.99, `${scene} with ${text}: ${share}`);
      }
    }
  }));

test("a cube turns by dragging, by keys and by sliders", () => withPage({}, async (page) => {
  await openTexture(page, "dawn.ktx2");
  await settled(page);
  run("draw", "sky", "dawn.ktx2", "-o", "front.png");
  assert.ok((await shareDrawn(page, "front.png")) >= 0.99);
  const box = await (await page.$("#live")).boundingBox();
  await page.mouse.move(box.x + 200, box.y + 100);
  await page.mouse.down();
  await page.mouse.move(box.x + 120, box.y + 110, { steps: 4 });
  await page.mouse.up();
  await settled(page);
  assert.ok((await shareDrawn(page, "front.png")) < 0.9, "dragging turns");
  await set(page, "Live view", "yaw", 40);
  await set(page, "Live view", "pitch", 15);
  run("draw", "sky", "dawn.ktx2", "--yaw", "40", "--pitch", "15", "-o", "drawn.png");
  assert.ok((await shareDrawn(page, "drawn.png")) >= 0.99);
  await page.focus("#live");
  await page.keyboard.press("ArrowRight");
  await settled(page);
  run("draw", "sky", "dawn.ktx2", "--yaw", "45", "--pitch", "15", "-o", "drawn.png");
  assert.ok((await shareDrawn(page, "drawn.png")) >= 0.99);
}));

for (const colorScheme of ["light", "dark"])
  test(`all of it is reached by keys and is accessible, ${colorScheme}`, () => withPage({ colorScheme }, async (page) => {
    const check = async (where) => {
      await page.evaluate(axe);
      const { violations } = await page.evaluate(() => axe.run());
      assert.deepEqual(violations.map(({ id, impact, nodes }) => `${where}: ${id} (${impact}): ${nodes[0].html}`), []);
    };
    const walk = async (wanted) => {
      const reached = new Set();
      await page.evaluate(() => document.activeElement.blur());
      for (let i = 0; i < 80; ++i) {
        await page.keyboard.press("Tab");
        reached.add(await page.evaluate(() => {
          const element = document.activeElement;
          return (element.closest("label")?.firstChild?.textContent || element.getAttribute("aria-label") || element.textContent || "").trim();
        }));
      }
      for (const name of wanted) assert.ok([...reached].some((text) => text.startsWith(name)), `${name} among ${[...reached].join(" | ")}`);
    };
    await settled(page);
    await walk(["Skip to", "Search", "Role", "Format", "Findings", "Texture", "Size", "slate.ktx2", hostile, "Table of textures"]);
    await check("overview");
    await page.keyboard.press("Home");
    await page.focus("#overview tbody a");
    await page.keyboard.press("Enter");
    await page.waitForFunction(() => document.querySelector("#live")?.width === 640);
    await settled(page);
    await walk(["All textures", "Next", "Show", "Level", "Scene", "mag", "min", "mip", "wrap u", "wrap v", "anisotropy", "lod from", "to", "bias", "Compare by", "Wiper"]);
    await check("texture");
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/report-${colorScheme}.png` });
    await page.goto(`file://${join(folder, "page.html")}#texture-3`);
    await page.waitForFunction(() => document.querySelector("#live")?.width === 640);
    await settled(page);
    await check("cube");
    await page.setViewportSize({ width: 380, height: 700 });
    await settled(page);
    assert.ok(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth), "a narrow window needs no scrolling sideways");
  }));

for (const [name, scenes] of [["slate.ktx2", ["floor", "panel", "panel, 3 x 3"]], ["dawn.ktx2", ["sky", "ball"]]]) test(`without WebGL drawn pictures of ${name} stand in the live view's place`, () => withPage({ hasWebGl: false }, async (page) => {
  await page.click(`#overview tbody a:text-is('${name}')`);
  await page.waitForSelector("section[aria-label=View] img");
  assert.deepEqual(await page.$$eval("section[aria-label=View] figcaption", (captions) => captions.map((caption) => caption.textContent)), scenes);
  const sizes = await page.$$eval("section[aria-label=View] img, section[aria-label='Samplers side by side'] img", async (images) => {
    await Promise.all(images.map((image) => image.decode()));
    return images.map(({ naturalWidth, naturalHeight }) => [naturalWidth, naturalHeight]);
  });
  assert.equal(sizes.length, scenes.length + 4);
  assert.ok(sizes.every(([width, height]) => width === 320 && height === 200), JSON.stringify(sizes));
}));

test("a hundred textures of 1024 stay under 40 MB", async () => {
  for (let i = 0; i < 4; ++i) run("rework", join(data, ["slate.png", "lattice.png", "moss.png", "slate_normal.png"][i]), "--resize", "1024x1024", "-o", `large${i}.png`);
  const files = Array.from({ length: 100 }, (_, i) => {
    copyFileSync(join(folder, `large${i % 4}.png`), join(folder, `many_${i}.png`));
    return `many_${i}.png`;
  });
  run("report", ...files, "-o", "many.html");
  assert.ok(statSync(join(folder, "many.html")).size <= 40_000_000);
  await withPage({ page: "many.html" }, async (page) => {
    assert.equal((await names(page)).length, 100);
    await openTexture(page, "many_99.png");
    assert.match(await page.textContent("section[aria-label=Picture]"), /The page holds levels/);
  });
});
