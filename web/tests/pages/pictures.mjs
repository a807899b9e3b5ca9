// Pictures made in the page.

/** A PNG: a white square on a ground of some hue. */
export async function pngOf(side, hue) {
  const canvas = new OffscreenCanvas(side, side);
  const context = canvas.getContext("2d");
  context.fillStyle = `hsl(${hue} 80% 50%)`;
  context.fillRect(0, 0, side, side);
  context.fillStyle = "white";
  context.fillRect(side / 4, side / 4, side / 2, side / 2);
  return canvas.convertToBlob({ type: "image/png" });
}
