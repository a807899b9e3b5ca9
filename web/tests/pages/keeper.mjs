// A keeper: placeholders, small levels first, one budget, failures that are named.
import { Library, TextureKeeper } from "../../dist/index.js";
import { pngOf } from "./pictures.mjs";
import { openDevice } from "./devices.mjs";

const stateOf = ({ state, label, droppedLevels, error }) => ({ state, label, droppedLevels, kind: error?.kind, message: error?.message });

/** The sides that a texture has had, in their order. */
async function early(library, device) {
  const keeper = new TextureKeeper(device, { workers: 1, early_side: 64 });
  const picture = await library.bake(await pngOf(512, 40), { role: "color" });
  const address = URL.createObjectURL(new Blob([picture.file("ktx2", { supercompression: "zstd" })]));
  const sides = [], states = [];
  const kept = keeper.keep(address, { role: "color" });
  sides.push(kept.texture.shape.width);
  keeper.addEventListener("change", ({ detail }) => {
    if (detail !== kept) return;
    states.push(detail.state);
    if (sides.at(-1) !== detail.texture.shape.width) sides.push(detail.texture.shape.width);
  });
  await kept.ready;
  const again = keeper.keep(address, { role: "color" }) === kept;
  const other = keeper.keep(address, { role: "data" }) === kept;
  await keeper.whenSettled();
  const placed = { progress: kept.progress, totals: keeper.totals() };
  keeper.free();
  picture.free();
  return { sides, states: [...new Set(states)], again, other, ...placed };
}

/** 200 pictures, every twentieth broken or missing. */
async function many(device) {
  const keeper = new TextureKeeper(device, { workers: 2 });
  const kept = await Promise.all(Array.from({ length: 200 }, async (_, i) => {
    const whole = await pngOf(16 + (i % 5) * 8, i);
    if (i % 40 === 3) return keeper.keep(`/nowhere-${i}.png`);
    return keeper.keep(i % 40 === 23 ? whole.slice(0, whole.size >> 1) : whole, { label: `picture ${i}` });
  }));
  const totals = await keeper.whenSettled();
  const failed = kept.filter(({ state }) => state === "failed").map(stateOf);
  const placeholder = kept[3].texture.shape;
  const outcomes = await Promise.allSettled(kept.map(({ ready }) => ready));
  keeper.free();
  return { totals, failed, placeholder, rejected: outcomes.filter(({ status }) => status === "rejected").length };
}

/** More textures than the budget holds: at no time more bytes, and those in use are whole. */
async function budget(library, device) {
  const pictures = await Promise.all(Array.from({ length: 12 }, async (_, i) => library.bake(await pngOf(256, 30 * i), { role: "color" })));
  const addresses = pictures.map((picture) => URL.createObjectURL(new Blob([picture.file("ktx2")])));
  const whole = pictures[0].shape.bytes;
  const budget = 4 * whole;
  const keeper = new TextureKeeper(device, { workers: 2, memory_budget: budget });
  let most = 0;
  keeper.addEventListener("change", () => (most = Math.max(most, keeper.totals().deviceBytes)));
  const kept = addresses.map((address) => keeper.keep(address, { role: "color" }));
  await keeper.whenSettled();
  const states = kept.map(stateOf);
  const use = async (numbers) => {
    await new Promise((done) => setTimeout(done, 600));
    for (let round = 0; round < 3; ++round) {
      for (const number of numbers) void kept[number].texture;
      await keeper.whenSettled();
    }
    return kept.map(({ droppedLevels }) => droppedLevels);
  };
  const firstUsed = await use([9, 10, 11]), thenUsed = await use([0, 1, 2]);
  const mostBefore = most;
  keeper.memoryBudget = Infinity;
  await keeper.whenSettled();
  const unbounded = kept.map(({ droppedLevels }) => droppedLevels);
  for (const one of kept.slice(4)) one.release();
  const left = keeper.totals();
  keeper.free();
  return { budget, most: mostBefore, states, firstUsed, thenUsed, unbounded, left, whole, after: keeper.totals() };
}

async function cancelled(device) {
  const keeper = new TextureKeeper(device, { workers: 1 });
  const stop = new AbortController();
  const blobs = await Promise.all(Array.from({ length: 12 }, (_, i) => pngOf(64, i)));
  const kept = blobs.map((blob, i) => keeper.keep(blob, { label: `${i}`, priority: i }, i % 2 ? stop.signal : undefined));
  stop.abort();
  await keeper.whenSettled();
  const states = kept.map(({ state }) => state);
  keeper.free();
  return { states };
}

export async function runKeeper(api) {
  const library = await Library.baking();
  const { device, errors } = await openDevice(api, library);
  const found = { early: await early(library, device), many: await many(device), budget: await budget(library, device), cancelled: await cancelled(device) };
  return { ...found, samplers: device.samplerCount, errors: errors() };
}
