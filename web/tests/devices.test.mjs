// Every format, kind and odd size goes to the browser's devices and comes back.
import assert from "node:assert/strict";
import { test } from "node:test";
import { runPage, troubleIn } from "./browser.mjs";

for (const name of ["webgl2", "webgpu"])
  test(`${name}: every format, kind and size goes to the device and comes back`, async () => {
    const { result, said } = await runPage(name);
    assert.equal(result.failed, undefined);
    assert.deepEqual(result.wrong, []);
    assert.deepEqual(result.errors ?? [], []);
    assert.ok(result.count > 900, `${result.count} textures`);
    assert.deepEqual(troubleIn(said), []);
  });
