// Pictures of the browser's devices beside those of the core.
import assert from "node:assert/strict";
import { test } from "node:test";
import { runPage, troubleIn } from "./browser.mjs";

for (const device of ["webgl2", "webgpu"])
  test(`${device}: floors, panels and skies within 2 codes of the core at 99 % of pixels`, async () => {
    const { result, said } = await runPage(`scenes-${device}`);
    assert.equal(result.failed, undefined);
    assert.deepEqual(result.errors, []);
    assert.ok(result.count >= 74, `${result.count} pictures`);
    for (const [name, share] of result.worst) assert.ok(share >= 0.99, `${name}: ${share}`);
    assert.deepEqual(troubleIn(said), []);
  });
