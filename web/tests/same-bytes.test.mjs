// The modules give the bytes and words of the native library.
import assert from "node:assert/strict";
import { test } from "node:test";
import { readdirSync } from "node:fs";
import { WasmSide, NativeSide, demo, root } from "./twin.mjs";

/** Both sides answer alike, but for addresses; gives both answers. */
async function both(sides, name, requests, file) {
  const answers = [];
  for (const [i, side] of sides.entries()) answers.push(await side.ask(name, requests[i], file));
  const plain = answers.map(({ memory: _, ...rest }) => rest);
  assert.deepEqual(plain[0], plain[1], `${name} ${file ?? ""}`);
  if (answers[0].memory) assert.equal(await sides[0].hash(answers[0].memory), await sides[1].hash(answers[1].memory), `${name} ${file ?? ""}: memory`);
  return answers;
}

const numbered = (answers, member, more = {}) => answers.map((answer) => ({ [member]: answer[member], ...more }));

async function compareTexture(sides, textures) {
  const levels = textures[0].shape.levels;
  for (let level = 0; level < levels; ++level)
    await both(sides, "texels", numbered(textures, "texture", { level }));
}

async function free(sides, answers, member) {
  await both(sides, "free", answers.map((answer) => ({ object: answer[member] })));
}

async function withSides(module, work) {
  const sides = [await WasmSide.load(module), new NativeSide()];
  try {
    await work(sides);
  } finally {
    for (const side of sides) side.close();
  }
}

const pictures = [
  ["slate.png", "color"], ["slate_normal.png", "normal"], ["slate_roughness.png", "mask"], ["lattice.png", "color"], ["terracotta.jpg", "color"],
  ["label.png", "color"], ["pond_normal.png", "normal"], ["moss.png", "mask"], ["dawn.hdr", "hdr"],
].filter(([name]) => readdirSync(demo("")).includes(name));

test("pictures, chains and containers: the same bytes as natively", async () => {
  assert.ok(pictures.length >= 5);
  await withSides("baking", async (sides) => {
    for (const [name, role] of pictures) {
      const read = await both(sides, "read_picture", [{ role }, { role }], demo(name));
      const baked = await both(sides, "bake", numbered(read, "picture", { role }));
      await compareTexture(sides, baked);
      for (const supercompression of ["none", "zstd", "zlib"]) {
        const file = await both(sides, "write_texture", numbered(baked, "texture", { as: "ktx2", supercompression }));
        await free(sides, file, "object");
      }
      await free(sides, baked, "texture");
      await free(sides, read, "picture");
    }
  });
});

test("block encoders: the same bytes as natively", async () => {
  await withSides("baking", async (sides) => {
    const read = await both(sides, "read_picture", [{}, {}], demo("label.png"));
    for (const as of ["bc1-srgb", "bc3-srgb", "bc7-srgb", "etc2-rgba8-srgb", "astc-4x4-srgb", "astc-6x6-srgb"])
      for (const effort of [0, 5]) {
        const baked = await both(sides, "bake", numbered(read, "picture", { as, effort }));
        assert.ok(baked[0].texture > 0, JSON.stringify(baked[0]));
        await compareTexture(sides, baked);
        const decoded = await both(sides, "decode", numbered(baked, "texture"));
        await compareTexture(sides, decoded);
        await free(sides, decoded, "texture");
        await free(sides, baked, "texture");
      }
  });
});

test("cubes, prefiltering and drawings: the same bytes as natively", async () => {
  await withSides("baking", async (sides) => {
    const read = await both(sides, "read_picture", [{ role: "hdr" }, { role: "hdr" }], demo("dawn.hdr"));
    for (const more of [{}, { prefilter: "specular", samples: 64 }]) {
      const cube = await both(sides, "cube", read.map(({ picture }) => ({ pictures: [{ picture, name: "dawn.hdr" }], face_size: 32, ...more })));
      assert.ok(cube[0].texture > 0, JSON.stringify(cube[0]));
      await compareTexture(sides, cube);
      for (const scene of ["sky", "ball"]) await both(sides, "draw", numbered(cube, "texture", { scene, width: 96, height: 60 }));
    }
    for (const scene of ["floor", "panel", "sky", "ball"]) await both(sides, "scene", [0, 1].map(() => ({ scene, turn: 40, yaw: 20 })));
    await both(sides, "shaders", [{}, {}]);
    const slate = await both(sides, "read_picture", [{}, {}], demo("slate.png"));
    const texture = await both(sides, "bake", numbered(slate, "picture"));
    for (const scene of ["floor", "panel"])
      for (const sampler of ["", "aniso=8", "mag=nearest min=nearest mip=none wrap=mirror"])
        await both(sides, "draw", numbered(texture, "texture", { scene, sampler, width: 120, height: 80 }));
  });
});

test("formats, samplers, plans and profiles: the same words as natively", async () => {
  await withSides("reading", async (sides) => {
    await both(sides, "formats", [{}, {}]);
    for (const sampler of ["", "aniso=16", "wrap=clamp-to-border,mirror-once border=1,0,0,1", "mip=none", "lod=1..3 bias=0.5", "mag=wrong"])
      await both(sides, "sampler", [{ sampler }, { sampler }]);
    for (const base of ["webgl2", "webgpu"]) {
      const profiles = await both(sides, "profile", [0, 1].map(() => ({ base, has: ["s3tc", "bptc", "rgtc"], max_2d_side: 4096 })));
      for (const name of readdirSync(`${root}fuzz/corpus/texture`)) {
        const read = await both(sides, "read_texture", [{}, {}], `${root}fuzz/corpus/texture/${name}`);
        if (!read[0].texture) continue;
        const prepared = await both(sides, "prepare_upload", [0, 1].map((i) => ({ texture: read[i].texture, profile: profiles[i].profile, staging_budget: 4096 })));
        const batches = prepared[0].plan?.batches.length ?? 0;
        for (let batch = 0; batch < batches; ++batch)
          await both(sides, "fill_staging", [0, 1].map((i) => ({ upload: prepared[i].upload, texture: read[i].texture, batch })));
        if (prepared[0].upload) await free(sides, prepared, "upload");
        await free(sides, read, "texture");
      }
    }
  });
});

test("a model: the same bindings, images and triangles as natively", async () => {
  await withSides("baking", async (sides) => {
    const models = await both(sides, "open_model", [{}, {}], demo("planter.glb"));
    const [{ images, materials, textures, missing }] = models;
    assert.equal(materials.length, 5);
    assert.equal(textures.length, 8);
    assert.ok(missing.includes("slate.png"));
    for (let image = 0; image < images.length; ++image)
      if (images[image].source !== "file") await both(sides, "model_image", numbered(models, "model", { image }));
    const made = await both(sides, "model_primitives", numbered(models, "model"));
    for (const [i, { vertex_count: count }] of made[0].primitives.entries()) {
      assert.ok(count > 3);
      for (const part of ["vertices", "indices"]) await both(sides, "bytes", made.map(({ primitives }) => ({ object: primitives[i][part] })));
    }
    await free(sides, models, "model");
  });
});

test("placeholders, and textures without their top levels: the same as natively", async () => {
  await withSides("baking", async (sides) => {
    for (const role of ["color", "normal", "mask"])
      for (const kind of ["2D", "2D array", "cube", "cube array", "3D", "1D"])
        for (const has_failed of [false, true]) {
          const texel = await both(sides, "placeholder", Array(2).fill({ role, kind, has_failed }));
          assert.equal(texel[0].shape.width, 1);
          await compareTexture(sides, texel);
          await free(sides, texel, "texture");
        }
    const read = await both(sides, "read_picture", [{}, {}], demo("slate.png"));
    const baked = await both(sides, "bake", numbered(read, "picture"));
    const rest = await both(sides, "without_top_levels", numbered(baked, "texture", { levels: 3 }));
    assert.equal(rest[0].shape.width, baked[0].shape.width >> 3);
    await compareTexture(sides, rest);
  });
});
