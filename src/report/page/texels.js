// The texels of a texture, unpacked when they are looked at.

const bytesOf = (text) => Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
const jsonOf = (id) => JSON.parse(document.getElementById(id).textContent);

async function unzipped(text) {
  const stream = new Blob([bytesOf(text)]).stream().pipeThrough(new DecompressionStream("deflate"));
  return new Response(stream).arrayBuffer();
}

/** RGBA bytes of an opaque picture, just as they were packed. */
async function pictureBytes(text) {
  const blob = new Blob([bytesOf(text)], { type: "image/webp" });
  const bitmap = await createImageBitmap(blob, { premultiplyAlpha: "none", colorSpaceConversion: "none" });
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  const context = canvas.getContext("2d", { willReadFrequently: true });
  context.drawImage(bitmap, 0, 0);
  return context.getImageData(0, 0, bitmap.width, bitmap.height).data;
}

const halfValues = new Float32Array(65536);
/** Numbers of IEEE 754 binary16. */
function floatsOf(halves) {
  if (halfValues[0x3c00] === 0)
    for (let bits = 0; bits < 65536; ++bits) {
      const exponent = (bits >> 10) & 31, mantissa = bits & 1023;
      const size = exponent === 0 ? mantissa * 2 ** -24 : exponent === 31 ? (mantissa ? NaN : Infinity) : (1 + mantissa / 1024) * 2 ** (exponent - 15);
      halfValues[bits] = bits >> 15 ? -size : size;
    }
  return Float32Array.from(halves, (bits) => halfValues[bits]);
}

class Texels {
  constructor(index, facts) {
    this.facts = facts;
    const held = jsonOf(`texels-${index}`);
    this.packed = held.levels;
    this.drawings = held.drawings;
    this.first = facts.shown.first_level;
    this.unpacked = new Map();
  }

  get levels() {
    return this.first + this.packed.length;
  }

  hasSource() {
    return this.packed.some((level) => level.source);
  }

  /** How large a level is shown, and how many parts it has. */
  sizeOf(level) {
    const packed = this.packed[level - this.first];
    const { width, height, depth } = this.facts.levels[level];
    return { width: packed.width ?? width, height: packed.height ?? height, slices: packed.width ? 1 : depth };
  }

  /** The place of a surface in a level's lists. */
  indexOf(level, { layer = 0, face = 0, slice = 0 }) {
    const { slices } = this.sizeOf(level);
    return (layer * this.facts.faces + face) * slices + Math.min(slice >> level, slices - 1);
  }

  /** { width, height, bytes } or, of light, { width, height, halves }: RGBA, row 0 at the top. */
  surface(level, place, whose = "color") {
    const index = this.indexOf(level, place);
    const key = `${whose} ${level} ${index}`;
    if (!this.unpacked.has(key)) this.unpacked.set(key, this.unpack(level, index, whose));
    return this.unpacked.get(key);
  }

  async unpack(level, index, whose) {
    const packed = this.packed[level - this.first];
    const { width, height } = this.sizeOf(level);
    if (this.facts.shown.is_light) return { width, height, halves: new Uint16Array(await unzipped(packed[whose][index])) };
    const bytes = await pictureBytes(packed[whose][index]);
    const alpha = packed[whose === "color" ? "alpha" : `${whose}_alpha`];
    if (alpha) {
      const alphas = await pictureBytes(alpha[index]);
      for (let i = 3; i < bytes.length; i += 4) bytes[i] = alphas[i - 3];
    }
    return { width, height, bytes };
  }

  async blocks(level, place) {
    const { blocks } = this.packed[level - this.first];
    return blocks ? new Uint8Array(await unzipped(blocks[this.indexOf(level, place)])) : null;
  }
}
