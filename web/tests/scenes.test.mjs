// Pictures of the browser's WebGL 2 beside those of the core.
import assert from "node:assert/strict";
import { test } from "node:test";
import { runPage, troubleIn } from "./browser.mjs";

test("webgl2: floors, panels and skies within 2 codes of the core at 99 % of pixels", async () => {
  const { result, said } = await runPage("scenes");
  assert.equal(result.failed, undefined);
  assert.equal(result.error, 0);
  assert.ok(result.count >= 74, `${result.count} pictures`);
  for (const [name, share] of result.worst) assert.ok(share >= 0.99, `${name}: ${share}`);
  assert.deepEqual(troubleIn(said), []);
});
