// Floors, panels and skies by a device beside the core's own sampler.

/** Rings and stripes with some noise; opaque. */
function pattern(width, height) {
  const data = new Uint8ClampedArray(width * height * 4);
  let state = 7;
  const noise = () => ((state = (Math.imul(state, 1103515245) + 12345) >>> 0) >>> 8) / 2 ** 24 / 5;
  const encoded = (light) => 255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * Math.min(light, 1) ** (1 / 2.4) - 0.055);
  for (let y = 0; y < height; ++y)
    for (let x = 0; x < width; ++x) {
      const u = (x + 0.5) / width - 0.4, v = (y + 0.5) / height - 0.6;
      const light = [0.4 + 0.4 * Math.sin(60 * Math.hypot(u, v)) + noise(), (Math.floor(x / 9) + Math.floor(y / 5)) % 2 === 0 ? 0.8 : 0.1, noise() * 4];
      data.set([...light.map(encoded), 255], 4 * (x + width * y));
    }
  return new ImageData(data, width, height);
}

function shareWithin2(a, b) {
  let within = 0;
  for (let i = 0; i < a.length; i += 4)
    within += Math.max(Math.abs(a[i] - b[i]), Math.abs(a[i + 1] - b[i + 1]), Math.abs(a[i + 2] - b[i + 2])) <= 2 ? 1 : 0;
  return within / (a.length / 4);
}

/** Pictures of both, for every filter and wrap that WebGL and WebGPU have. `scenes.draw` may take its time. */
export async function compareScenes(library, device, scenes) {
  const shares = {};
  const compare = async (name, texture, options) => {
    const uploaded = device.upload(texture, { sampler: options.sampler });
    const byGpu = await scenes.draw(uploaded, options), byCpu = library.draw(texture, { ...options, sampler: uploaded.samplerWords.text });
    shares[`${name} ${options.sampler}`] = shareWithin2(byGpu.data, byCpu.data);
    uploaded.free();
  };
  for (const [width, height] of [[256, 128], [45, 29]]) {
    const texture = await library.bake(pattern(width, height), { role: "color", filter: "box" });
    for (const filter of ["mag=nearest min=nearest mip=none", "mag=linear min=linear mip=none", "mag=nearest min=nearest mip=nearest", "mag=linear min=linear mip=nearest",
      "mag=nearest min=nearest mip=linear", "mag=linear min=linear mip=linear"])
      for (const wrap of ["repeat", "mirror", "clamp-to-edge"]) {
        await compare(`floor ${width}`, texture, { scene: "floor", width: 320, height: 200, sampler: `${filter} wrap=${wrap}` });
        await compare(`panel ${width}`, texture, { scene: "panel", width: 240, height: 180, turn: 50, tilt: 15, tiles_u: 2.5, tiles_v: 1.5, sampler: `${filter} wrap=${wrap}` });
      }
    texture.free();
  }
  const cube = await library.cube([{ source: pattern(256, 128) }], { role: "color" });
  await compare("sky", cube, { scene: "sky", width: 240, height: 160, yaw: 30, pitch: 10, sampler: "wrap=clamp-to-edge" });
  for (const [yaw, pitch] of [[0, 0], [120, -40], [250, 70]])
    await compare(`sky ${yaw}`, cube, { scene: "sky", width: 240, height: 160, yaw, pitch, sampler: "mag=nearest min=nearest mip=none wrap=clamp-to-edge" });
  return { worst: Object.entries(shares).sort((a, b) => a[1] - b[1]).slice(0, 8), count: Object.keys(shares).length };
}
