// Pictures in the forms that a page has them in.
import assert from "node:assert/strict";
import { test } from "node:test";
import { runPage, troubleIn } from "./browser.mjs";

test("bytes, a Blob, a File, an ImageBitmap and ImageData are the same picture; files are picked by the device", async () => {
  const { result, said } = await runPage("sources");
  assert.equal(result.failed, undefined);
  const [first, ...others] = Object.entries(result.files);
  assert.equal(others.length, 5);
  for (const [name, digest] of others) assert.equal(digest, first[1], name);
  for (const [api, { picked, expected, none, refused }] of Object.entries(result.picks)) {
    assert.equal(picked, expected, api);
    assert.ok(["astc", "bc", "etc"].includes(picked), `${api}: ${picked}`);
    assert.equal(none, "last");
    assert.match(refused, /there is no format 'bc8-srgb'/);
  }
  assert.deepEqual(troubleIn(said), []);
});
