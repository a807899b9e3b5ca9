// Textures of every kind at odd sizes, with random texels.
export function levelsOf(...sides) {
  return 1 + Math.floor(Math.log2(Math.max(...sides)));
}

export function shapesFor(format, { cubeArrays }) {
  const shapes = [];
  const add = (shape) => shapes.push({ format: format.name, levels: levelsOf(shape.width, shape.height ?? 1, shape.depth ?? 1), ...shape });
  for (const [width, height] of [[1, 1], [5, 3], [31, 18]]) {
    add({ width, height });
    add({ width, height, layers: 3, is_array: true });
    add({ width, height, depth: 5 });
  }
  for (const side of [1, 7, 16]) {
    add({ width: side, height: side, faces: 6 });
    if (cubeArrays) add({ width: side, height: side, layers: 2, faces: 6, is_array: true });
  }
  return shapes;
}

export function bytesOf(shape, format) {
  const [bw, bh, bytes] = format.block;
  let all = 0;
  for (let level = 0; level < shape.levels; ++level) {
    const side = (length) => Math.max(1, (length ?? 1) >> level);
    all += Math.ceil(side(shape.width) / bw) * Math.ceil(side(shape.height) / bh) * bytes * side(shape.depth) * (shape.layers ?? 1) * (shape.faces ?? 1);
  }
  return all;
}

/** Random texels; of floating point, finite ones. */
export function randomTexels(shape, format, seed) {
  const texels = new Uint8Array(bytesOf(shape, format));
  let state = seed * 2654435761 + 1;
  for (let i = 0; i < texels.length; ++i) {
    state = (Math.imul(state, 1103515245) + 12345) >>> 0;
    texels[i] = state >>> 16;
  }
  if (!format.is_float || format.block[0] > 1) return texels;
  const size = format.name.startsWith("rg11b10") || format.name.startsWith("rgb9e5") ? 0 : format.name.includes("32") ? 4 : 2;
  // Exponents of all ones are infinite or no numbers.
  if (size === 4) for (let i = 3; i < texels.length; i += 4) texels[i] &= 0xbf;
  else if (size === 2) for (let i = 1; i < texels.length; i += 2) texels[i] &= 0xbb;
  else if (format.name.startsWith("rg11b10")) {
    const words = new Uint32Array(texels.buffer);
    for (let i = 0; i < words.length; ++i) words[i] &= ~((1 << 10) | (1 << 21) | (1 << 31));
  }
  return texels;
}
