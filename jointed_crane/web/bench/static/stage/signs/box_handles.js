// Handles on the box of a part's art: its scale handles, and its nine points.

import { svg } from "../../elements/drawing.js";

/** @param {Bench} bench */
export function makeBoxHandles(bench, holder, { screen }) {
  function box(id) {
    const [left, top, right, bottom] = bench.drawingOf(id)?.bounds ?? helperBox(id);
    return { left, top, right, bottom, middleX: (left + right) / 2, middleY: (top + bottom) / 2 };
  }

  function helperBox(id) {
    const { pivot, size } = bench.part(id);
    return [pivot[0] - size / 2, pivot[1] - size / 2, pivot[0] + size / 2, pivot[1] + size / 2];
  }

  function scaleHandles(id) {
    const { left, top, right, bottom, middleX, middleY } = box(id);
    const corners = [
      [left, top],
      [right, top],
      [right, bottom],
      [left, bottom],
    ];
    holder.append(
      svg("path", {
        d: `M${corners.map((point) => screen(id, point).join(" ")).join("L")}Z`,
        fill: "none",
        class: "stroke-lagoon",
        "stroke-width": 1,
        "stroke-dasharray": "4 3",
        "pointer-events": "none",
      }),
    );
    const edges = [
      ["x", left, middleY],
      ["x", right, middleY],
      ["y", middleX, top],
      ["y", middleX, bottom],
    ];
    for (const [axes, artX, artY] of edges) handle(id, axes, [artX, artY], 4);
    for (const point of corners) handle(id, "both", point, 5.5);
  }

  function handle(id, axes, point, size) {
    const [x, y] = screen(id, point);
    holder.append(
      svg("rect", {
        x: x - size,
        y: y - size,
        width: 2 * size,
        height: 2 * size,
        rx: axes === "both" ? 2 : size,
        class: "fill-card stroke-lagoon cursor-grab",
        "stroke-width": 2,
        "data-scale": axes,
      }),
    );
  }

  function ninePoints(id) {
    if (!bench.drawingOf(id)) return;
    const { left, top, right, bottom, middleX, middleY } = box(id);
    for (const artY of [top, middleY, bottom])
      for (const artX of [left, middleX, right]) {
        const [x, y] = screen(id, [artX, artY]);
        holder.append(
          svg("rect", {
            x: x - 4,
            y: y - 4,
            width: 8,
            height: 8,
            class: "fill-card stroke-brass",
            "stroke-width": 1.6,
            "pointer-events": "none",
          }),
        );
      }
  }

  return { scaleHandles, ninePoints };
}
