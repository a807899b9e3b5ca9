// Workers, in the browser.
import assert from "node:assert/strict";
import { test } from "node:test";
import { runPage, troubleIn } from "./browser.mjs";

test("200 pictures by two workers: 190 are shown, and 10 broken ones are named", async () => {
  const { result, said } = await runPage("pool");
  assert.equal(result.failed?.[0]?.length, 3, JSON.stringify(result));
  assert.equal(result.shown, 190);
  assert.equal(result.failed.length, 10);
  for (const [index, kind, message] of result.failed) {
    assert.equal(index % 20, 3);
    assert.equal(kind, "malformed");
    assert.ok(message.length > 10, message);
  }
  assert.ok(result.outcomes.every((outcome) => outcome === "cancelled"), result.outcomes.join(" "));
  assert.equal(result.after, "usage");
  assert.equal(result.samplers, 1);
  assert.equal(result.samplersLeft, 0);
  assert.equal(result.error, 0);
  assert.equal(result.pending, 0);
  assert.deepEqual(troubleIn(said), []);
});
