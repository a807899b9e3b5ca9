// A surface as a picture: colours, single channels, or directions.

const views = {
  color: "colours", red: "red", green: "green", blue: "blue", alpha: "alpha", normal: "normals, z rebuilt",
};

const srgbOf = (linear) => {
  const value = Math.min(Math.max(linear, 0), 1);
  return 255 * (value <= 0.0031308 ? 12.92 * value : 1.055 * value ** (1 / 2.4) - 0.055);
};

/** Bytes to look at, of whatever a surface holds. */
function shownBytes(surface, facts, stops) {
  if (surface.bytes) return surface.bytes;
  const floats = floatsOf(surface.halves);
  const factor = 2 ** stops;
  const shown = new Uint8ClampedArray(floats.length);
  const isLight = !facts.is_signed && facts.histogram.unit === "stops";
  for (let i = 0; i < floats.length; ++i) {
    if (i % 4 === 3) shown[i] = 255 * floats[i];
    else if (isLight) shown[i] = srgbOf(floats[i] * factor);
    else shown[i] = facts.is_signed ? 127.5 * (floats[i] + 1) : 255 * floats[i];
  }
  return shown;
}

/** A pixel of the view from a pixel of bytes, in place. */
const painters = {
  color(p, i, facts) {
    if (facts.alpha === "data" || facts.alpha === "opaque") p[i + 3] = 255;
    else if (facts.alpha === "premultiplied" && p[i + 3] > 0)
      for (let c = 0; c < 3; ++c) p[i + c] = Math.min(255, (p[i + c] * 255) / p[i + 3]);
  },
  red: (p, i) => gray(p, i, p[i]),
  green: (p, i) => gray(p, i, p[i + 1]),
  blue: (p, i) => gray(p, i, p[i + 2]),
  alpha: (p, i) => gray(p, i, p[i + 3]),
  normal(p, i) {
    const x = p[i] / 127.5 - 1, y = p[i + 1] / 127.5 - 1;
    p[i + 2] = 127.5 * (1 + Math.sqrt(Math.max(0, 1 - x * x - y * y)));
    p[i + 3] = 255;
  },
};

function gray(p, i, value) {
  p[i] = p[i + 1] = p[i + 2] = value;
  p[i + 3] = 255;
}

function imageOf(surface, facts, view, stops = 0) {
  const pixels = new Uint8ClampedArray(shownBytes(surface, facts, stops));
  for (let i = 0; i < pixels.length; i += 4) painters[view](pixels, i, facts);
  return new ImageData(pixels, surface.width, surface.height);
}

/** How far two surfaces are apart, each step of a code times `gain`. */
function differenceOf(a, b, facts, gain, stops) {
  const first = shownBytes(a, facts, stops), second = shownBytes(b, facts, stops);
  const pixels = new Uint8ClampedArray(first.length);
  const counts = facts.alpha === "data" ? 4 : 3;
  for (let i = 0; i < pixels.length; i += 4) {
    let largest = 0;
    for (let c = 0; c < counts; ++c) largest = Math.max(largest, Math.abs(first[i + c] - second[i + c]));
    const shown = largest * gain;
    pixels[i] = shown;
    pixels[i + 1] = shown * 0.85;
    pixels[i + 2] = Math.max(0, shown - 255) + 30;
    pixels[i + 3] = 255;
  }
  return new ImageData(pixels, a.width, a.height);
}

// Where each face lies in a cross of 4 x 3, in the order +X, -X, +Y, -Y, +Z, -Z.
const crossPlaces = [[2, 1], [0, 1], [1, 0], [1, 2], [1, 1], [3, 1]];
const faceNames = ["+X", "\u2212X", "+Y", "\u2212Y", "+Z", "\u2212Z"];

/** Draws a level on a canvas, `draw(place)` giving the image of each of its faces. */
async function paint(canvas, texels, level, place, draw) {
  const { width, height } = texels.sizeOf(level);
  const isCube = texels.facts.faces === 6;
  const images = [];
  for (let face = 0; face < texels.facts.faces; ++face) images.push(await draw({ ...place, face }));
  canvas.width = isCube ? 4 * width : width;
  canvas.height = isCube ? 3 * height : height;
  const context = canvas.getContext("2d", { willReadFrequently: true });
  images.forEach((image, face) => context.putImageData(image, isCube ? crossPlaces[face][0] * width : 0, isCube ? crossPlaces[face][1] * height : 0));
}

/** Shows small pictures larger, by whole factors where they fit. */
function fit(canvas, room) {
  const factor = canvas.width <= room ? Math.max(1, Math.floor(Math.min(room, 512) / Math.max(canvas.width, canvas.height))) : 1;
  canvas.style.width = `${canvas.width * factor}px`;
}
