// A block of a row in time: what holds from one frame until another, with its words where they have room.

import { svg } from "../../elements/drawing.js";

/** @param {{ from: number, to: number, middle: number, left: number, look: string, words: string }} stretch px; words begin no farther left than `left` */
export function stretchOf({ from, to, middle, left, look, words }) {
  const begin = Math.max(from, left - 8) + 12;
  const room = to - begin - 6;
  const block = svg("rect", {
    x: from,
    y: middle - 9,
    width: Math.max(to - from - 2, 2),
    height: 18,
    rx: 4,
    class: look,
    "pointer-events": "none",
  });
  if (room <= 30) return [block];
  const attributes = { x: begin, y: middle + 4, class: "fill-ink text-[11.5px]", "pointer-events": "none" };
  return [block, svg("text", attributes, words.slice(0, Math.floor(room / 6.5)))];
}
