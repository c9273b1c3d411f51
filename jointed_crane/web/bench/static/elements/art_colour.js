// The colour that a picture has at a place, as it is painted.

const SIZE = 256; // px of the longer side of what is looked at

/**
 * The colour of a drawing at a point of its art, "#rrggbb"; where nothing is painted there, the mean of what is.
 * @param {{ art: string, box: number[], registration?: number[], shape?: any }} drawing
 * @param {number[]} point px in art space
 */
export async function colourAt(drawing, [x, y]) {
  if (drawing.shape?.paint?.fill) return drawing.shape.paint.fill;
  const image = new Image();
  image.src = `/art/${drawing.art}`;
  await image.decode();
  const [left, top, right, bottom] = drawing.box;
  const share = SIZE / Math.max(right - left, bottom - top);
  const width = Math.max(1, Math.round((right - left) * share));
  const height = Math.max(1, Math.round((bottom - top) * share));
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext("2d", { willReadFrequently: true });
  context.drawImage(image, 0, 0, width, height);
  const [zeroX, zeroY] = drawing.registration ?? [0, 0];
  const [r, g, b, a] = context.getImageData((x + zeroX - left) * share, (y + zeroY - top) * share, 1, 1).data;
  return hex(a > 200 ? [r, g, b] : mean(context.getImageData(0, 0, width, height).data));
}

/** The mean colour of what is painted, by how much it covers. */
function mean(pixels) {
  const sums = [0, 0, 0, 0];
  for (let at = 0; at < pixels.length; at += 4) {
    const covers = pixels[at + 3];
    for (let place = 0; place < 3; place += 1) sums[place] += pixels[at + place] * covers;
    sums[3] += covers;
  }
  return sums.slice(0, 3).map((sum) => Math.round(sum / (sums[3] || 1)));
}

const hex = (numbers) => `#${numbers.map((number) => number.toString(16).padStart(2, "0")).join("")}`;
