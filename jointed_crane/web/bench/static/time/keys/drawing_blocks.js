// The row of drawings in time: a block with its thumbnail for each stretch on which one drawing shows.

import { svg, thumbnail } from "../../elements/drawing.js";
import { ROW } from "../axis.js";

const SIZE = 22;

/**
 * What draws the blocks of a part's drawing channel at the middle of its row.
 * @param {Bench} bench
 * @param {Axis} axis
 */
export function makeDrawingBlocks(bench, field, axis) {
  return function drawBlocks(id, middle) {
    const { drawings, channels } = bench.part(id);
    const { keys, after } = channels.drawing;
    const end = bench.stage.length - 1;
    keys.forEach((key, index) => {
      const until = keys[index + 1]?.frame ?? (after === "hold" ? Math.max(end, key.frame) : key.frame);
      const from = index ? key.frame : Math.min(key.frame, 0);
      if (!(axis.isSeen(from) || axis.isSeen(until) || (from < axis.begin && until > axis.begin))) return;
      block(drawings[Math.min(Math.max(Math.round(key.value), 0), drawings.length - 1)], axis.xOf(from), axis.xOf(until), middle, index);
    });
  };

  function block(drawing, from, to, middle, index) {
    if (!drawing) return;
    const left = Math.max(from, axis.left - 8) + 8;
    field.append(
      svg("rect", {
        x: from,
        y: middle - ROW / 2 + 2,
        width: Math.max(to - from - 1, 1),
        height: ROW - 4,
        rx: 4,
        class: index % 2 ? "fill-line-soft" : "fill-brass-light",
        "fill-opacity": 0.6,
        "pointer-events": "none",
      }),
    );
    if (to - left > SIZE)
      field.append(thumbnail(drawing, { x: left, y: middle - SIZE / 2, width: SIZE, height: SIZE, "pointer-events": "none" }));
    const room = to - left - SIZE - 8;
    if (room > 40)
      field.append(
        svg(
          "text",
          { x: left + SIZE + 4, y: middle + 4.5, class: "fill-mute text-[11.5px]", "pointer-events": "none" },
          drawing.name.slice(0, Math.floor(room / 7)),
        ),
      );
  }
}
