// Textures that a keeper loads, on both devices of the browser.
import assert from "node:assert/strict";
import { test } from "node:test";
import { levelsToDrop } from "../dist/budget.js";
import { runPage, troubleIn } from "./browser.mjs";

for (const api of ["webgl2", "webgpu"])
  test(`${api}: a keeper shows small levels first, keeps its budget and names what fails`, async () => {
    const { result, said } = await runPage(`keeper-${api}`);
    assert.equal(result.failed, undefined);
    const { early, many, budget, cancelled } = result;

    assert.deepEqual(early.sides, [1, 64, 512]);
    assert.deepEqual(early.states, ["decoding", "uploading", "ready"]);
    assert.ok(early.again && !early.other);
    assert.equal(early.progress, 1);
    assert.equal(early.totals.ready, 2);

    assert.equal(many.totals.ready, 190);
    assert.equal(many.failed.length, 10);
    for (const [i, { label, kind, message }] of many.failed.entries()) {
      assert.equal(kind, i % 2 === 0 ? "missing" : "malformed", message);
      assert.ok(message.includes(label) && label !== "", message);
    }
    assert.equal(many.placeholder.width, 1);
    assert.equal(many.rejected, 10);

    assert.ok(budget.states.every(({ state }) => state === "ready"), JSON.stringify(budget.states));
    assert.ok(budget.most <= budget.budget && budget.most > budget.budget / 2, `${budget.most} of ${budget.budget}`);
    assert.deepEqual(budget.firstUsed.slice(9), [0, 0, 0]);
    assert.ok(budget.firstUsed.slice(0, 6).every((dropped) => dropped > 0), String(budget.firstUsed));
    assert.deepEqual(budget.thenUsed.slice(0, 3), [0, 0, 0]);
    assert.ok(budget.thenUsed.slice(3, 8).every((dropped) => dropped > 0), String(budget.thenUsed));
    assert.deepEqual(budget.unbounded, Array(12).fill(0));
    assert.equal(budget.left.textures, 4);
    assert.equal(budget.left.deviceBytes, 4 * budget.whole);
    assert.equal(budget.after.deviceBytes, 0);

    assert.ok(cancelled.states.every((state, i) => state === (i % 2 ? "cancelled" : "ready")), String(cancelled.states));
    assert.deepEqual(result.errors, []);
    if (api === "webgl2") assert.equal(result.samplers, 0);
    assert.deepEqual(troubleIn(said).filter((line) => !line.includes("404")), []);
  });

test("who loses levels: the least used first, small levels last", () => {
  const square = (side, lastUse) => ({ lastUse, level_bytes: Array.from({ length: Math.log2(side) + 1 }, (_, level) => 4 * (side >> level) ** 2) });
  const total = (textures, dropped) => textures.reduce((sum, { level_bytes }, i) => sum + level_bytes.slice(dropped[i]).reduce((a, b) => a + b, 0), 0);
  const textures = [square(256, 3), square(512, 1), square(256, 2), square(64, 0)];
  assert.deepEqual(levelsToDrop(textures, Infinity), [0, 0, 0, 0]);
  assert.deepEqual(levelsToDrop(textures, 1_000_000), [0, 2, 0, 0]);
  assert.deepEqual(levelsToDrop(textures, 500_000), [0, 3, 1, 0]);
  for (const budget of [2_000_000, 700_000, 90_000, 4_000, 100, 16]) {
    const dropped = levelsToDrop(textures, budget);
    assert.ok(total(textures, dropped) <= budget, `${budget}: ${dropped}`);
  }
  assert.deepEqual(levelsToDrop(textures, 0), [8, 9, 8, 6]);
  // Of textures used alike the later ones lose first, whatever else is there.
  assert.deepEqual(levelsToDrop([square(128, 5), square(128, 5)], 110_000), [0, 1]);
});
