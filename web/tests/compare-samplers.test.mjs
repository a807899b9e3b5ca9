// The page of samplers: its controls work, its names and colours are accessible, in light and dark.
import assert from "node:assert/strict";
import { test } from "node:test";
import { readFileSync } from "node:fs";
import { openPage, troubleIn } from "./browser.mjs";

const axe = readFileSync(new URL("../node_modules/axe-core/axe.min.js", import.meta.url), "utf8");

for (const colorScheme of ["light", "dark"])
  test(`the page of samplers, ${colorScheme}`, async () => {
    const opened = await openPage("examples/compare-samplers.html", { colorScheme });
    const { page, said } = opened;
    try {
      const result = async (change) => {
        await page.evaluate(() => { window.result = undefined; });
        await change();
        await page.waitForFunction("window.result !== undefined");
        return page.evaluate("window.result");
      };
      assert.ok((await page.evaluate("window.result")).share >= 0.99);
      const choose = (name, value) => () => page.selectOption(`[name=${name}]`, value);
      const nearest = await result(choose("mag", "nearest"));
      assert.match(nearest.sampler, /mag=nearest/);
      assert.ok((await result(choose("scene", "panel"))).share >= 0.99);
      const border = await result(choose("wrapU", "clamp-to-border"));
      assert.ok(border.findings.length > 0 && !border.sampler.includes("clamp-to-border"), JSON.stringify(border));
      await result(choose("wrapU", "repeat"));
      // By the keyboard: a slider under focus.
      await page.focus("[name=aniso]");
      const sharp = await result(() => page.keyboard.press("End"));
      assert.match(sharp.sampler, /aniso=16/);
      await result(() => page.keyboard.press("Home"));
      const ball = await result(choose("picture", "dawn.hdr"));
      assert.equal(await page.evaluate("document.querySelector('form').elements.scene.value"), "ball");
      // At the rim of a ball a pixel sees half a sky, and the choice of a level is the driver's.
      assert.ok(ball.share > 0.5, `${ball.share}`);
      const sky = await result(choose("scene", "sky"));
      assert.ok(sky.share >= 0.99, `${sky.share}`);
      await result(choose("picture", "slate.png"));
      await result(choose("scene", "floor"));

      const reached = new Set();
      await page.evaluate("document.activeElement.blur()");
      for (let i = 0; i < 20; ++i) {
        await page.keyboard.press("Tab");
        reached.add(await page.evaluate("document.activeElement.name ?? ''"));
      }
      for (const name of ["picture", "file", "scene", "mag", "min", "mip", "aniso", "wrapU", "wrapV", "border", "minLevel", "maxLevel", "bias"])
        assert.ok(reached.has(name), name);
      await page.evaluate(axe);
      const { violations } = await page.evaluate(() => axe.run());
      assert.deepEqual(violations.map(({ id, nodes }) => `${id}: ${nodes[0].html}`), []);
      if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/compare-samplers-${colorScheme}.png` });
      assert.deepEqual(troubleIn(said), []);
    } finally {
      await opened.close();
    }
  });
