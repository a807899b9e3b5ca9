// The examples, each in the browser.
import assert from "node:assert/strict";
import { test } from "node:test";
import { openPage, runPage, troubleIn } from "./browser.mjs";

const run = async (name, missing = 0) => {
  const { result, said } = await runPage(name, { path: `examples/${name}.html` });
  const trouble = troubleIn(said);
  assert.equal(trouble.length, missing, trouble.join("\n"));
  return result;
};

test("one texture by WebGL 2", async () => {
  const { shape, middle } = await run("one-texture");
  assert.equal(shape.format, "rgba8-srgb");
  assert.ok(shape.levels > 7);
  assert.ok(middle[3] === 255 && Math.max(...middle.slice(0, 3)) > 20, middle.join(" "));
});

test("one texture by WebGPU", async () => {
  const { shape, findings, colors } = await run("one-texture-webgpu");
  assert.ok(["bc7-srgb", "rgba8-srgb"].includes(shape.format), shape.format);
  assert.ok(colors > 500, `${colors} colours`);
  assert.equal(findings.length > 0, shape.format !== "bc7-srgb");
});

test("several and late, one of them missing", async () => {
  const { outcomes, said } = await run("several-and-late", 1);
  assert.deepEqual(outcomes, [true, true, false, true]);
  assert.match(said, /nowhere\.png: the server answers 404/);
});

test("a sky that is turned", async () => {
  const { page, said, close } = await openPage("examples/sky.html");
  try {
    const first = await page.evaluate("window.result");
    assert.equal(first.shape.faces, 6);
    await page.focus("canvas");
    for (let i = 0; i < 9; ++i) await page.keyboard.press("ArrowRight");
    const turned = await page.evaluate("window.result");
    assert.equal(turned.yaw, 90);
    assert.notDeepEqual(turned.middle, first.middle);
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/sky.png` });
    assert.deepEqual(troubleIn(said), []);
  } finally {
    await close();
  }
});

test("a model with what its materials bind", async () => {
  const { page, said, close } = await openPage("examples/model.html");
  try {
    const first = await page.evaluate("window.result");
    assert.equal(first.rows.length, 8);
    assert.equal(first.totals.ready, 7);
    assert.equal(first.totals.failed, 1);
    assert.match(first.rows.find(([name]) => name === "terracotta").at(-1), /failed: the server answers 404/);
    assert.deepEqual(first.rows.find(([, slot]) => slot === "normal").slice(2, 4), ["slate_normal.png", "normal"]);
    assert.ok(first.colors > 2000, `${first.colors} colours`);
    assert.equal(first.error, 0);
    await page.focus("canvas");
    await page.keyboard.press("ArrowLeft");
    assert.equal((await page.evaluate("window.result")).turn, 20);
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/model.png` });
    assert.deepEqual(troubleIn(said).filter((line) => !line.includes("404")), []);
  } finally {
    await close();
  }
});
