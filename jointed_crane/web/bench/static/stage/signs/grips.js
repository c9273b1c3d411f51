// What can be taken hold of on a part: its pin, its registration, the nodes of its path; helpers, and lines to parents.

import { clamp, pin, svg } from "../../elements/drawing.js";

/** More pins of picked parts than these are drawn as points. */
const MOST_PINS = 12;

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeGrips(bench, view, holder, { screen, pivotOf, isSeen }) {
  function anyPin(id, isPicked = false) {
    const [x, y] = pivotOf(id);
    // Pins of very many would cover what they hold: they are points then.
    const isPoint = isPicked && bench.picked.length > MOST_PINS && id !== bench.lead;
    const group = isPoint
      ? svg("g", {}, svg("circle", { cx: x, cy: y, r: 2.5, class: "fill-brass-light stroke-brass" }))
      : pin(x, y, { isPicked });
    group.setAttribute("data-pin", id);
    if (bench.tool === "pivot") group.classList.add("cursor-grab");
    else group.setAttribute("pointer-events", "none");
    group.append(svg("title", {}, `Pivot of ${bench.part(id).name}`));
    holder.append(group);
  }

  /** A corner bracket at the art's zero, along the art's own axes. */
  function zero(id) {
    if (!bench.drawingOf(id)) return;
    const [x, y] = screen(id, [0, 0]);
    const [[a, b], [c, d]] = [screen(id, [1, 0]), screen(id, [0, 1])].map(([px, py]) => [px - x, py - y]);
    const along = (dx, dy) => {
      const size = Math.hypot(dx, dy) || 1;
      return [x + (dx / size) * 16, y + (dy / size) * 16].join(" ");
    };
    const group = svg("g", { class: "cursor-grab", "data-zero": id });
    const path = `M${along(a, b)}L${x} ${y}L${along(c, d)}`;
    group.append(
      svg("path", { d: path, fill: "none", stroke: "transparent", "stroke-width": 14 }),
      svg("path", {
        d: path,
        fill: "none",
        class: "stroke-card",
        "stroke-width": 6,
        "stroke-linejoin": "round",
        "stroke-linecap": "round",
      }),
      svg("path", {
        d: path,
        fill: "none",
        class: "stroke-lagoon",
        "stroke-width": 3,
        "stroke-linejoin": "round",
        "stroke-linecap": "round",
      }),
      svg("title", {}, `Registration of ${bench.part(id).name}`),
    );
    holder.append(group);
  }

  return {
    lineToParent: (id) => lineToParent({ bench, holder, pivotOf, isSeen }, id),
    anyPin,
    nodes: (id) => nodes({ bench, holder, screen }, id),
    zero,
    helper: (id) => helper({ bench, view, holder, pivotOf }, id),
  };
}

/**
 * Nodes of a pen path and their handles, to be dragged.
 * @param {Shared} shared
 */
function nodes({ bench, holder, screen }, id) {
  const drawing = bench.drawingOf(id);
  if (drawing?.shape?.form !== "path") return;
  const [zeroX, zeroY] = drawing.registration;
  /** @type {any} */
  const path = bench.movingShape(id)?.shape ?? drawing.shape;
  for (const [contourIndex, contour] of path.contours.entries()) {
    for (const [index, { point, handle_in: before, handle_out: after }] of contour.entries()) {
      const at = screen(id, [point[0] - zeroX, point[1] - zeroY]);
      const data = { "data-contour": contourIndex, "data-node-index": index };
      for (const [which, offset] of [
        ["handle_in", before],
        ["handle_out", after],
      ]) {
        if (!offset) continue;
        const [x, y] = screen(id, [point[0] + offset[0] - zeroX, point[1] + offset[1] - zeroY]);
        holder.append(
          svg("path", { d: `M${at.join(" ")}L${x} ${y}`, class: "stroke-lagoon", "stroke-width": 1.2, "pointer-events": "none" }),
          svg("circle", {
            cx: x,
            cy: y,
            r: 4.5,
            class: "fill-lagoon-light stroke-lagoon cursor-grab",
            "stroke-width": 1.6,
            "data-path-node": which,
            ...data,
          }),
        );
      }
      holder.append(
        svg("rect", {
          x: at[0] - 5,
          y: at[1] - 5,
          width: 10,
          height: 10,
          rx: before || after ? 5 : 1.5,
          class: "fill-card stroke-lagoon cursor-grab",
          "stroke-width": 2,
          "data-path-node": "point",
          ...data,
        }),
      );
    }
  }
}

/**
 * The dashed sign of a helper, as large as it is drawn.
 * @param {Shared} shared
 */
function helper({ bench, view, holder, pivotOf }, id) {
  const [x, y] = pivotOf(id);
  const half = clamp((bench.part(id).size * view.k) / 2, 7, 60);
  const look = {
    fill: "transparent",
    class: "stroke-lagoon cursor-pointer",
    "stroke-width": bench.picked.includes(id) ? 2.6 : 1.6,
    "stroke-dasharray": "5 3.5",
    "pointer-events": "all",
    "data-pick": id,
  };
  const box = { x: x - half, y: y - half, width: 2 * half, height: 2 * half, rx: bench.part(id).form === "round" ? half : 5 };
  const sign =
    bench.part(id).form === "cross"
      ? svg("path", { d: `M${x - half} ${y}H${x + half}M${x} ${y - half}V${y + half}`, ...look })
      : svg("rect", { ...box, ...look });
  sign.append(svg("title", {}, bench.part(id).name));
  holder.append(sign);
}

/**
 * A dotted line from a part to its parent, whose pin is seen too.
 * @param {Shared} shared
 */
function lineToParent({ bench, holder, pivotOf, isSeen }, id) {
  const parent = bench.part(id).parent;
  if (!parent || !isSeen(parent)) return;
  const [x, y] = pivotOf(id);
  const [px, py] = pivotOf(parent);
  holder.append(
    svg("path", {
      d: `M${px} ${py}L${x} ${y}`,
      class: "stroke-lagoon",
      "stroke-width": 1.4,
      "stroke-dasharray": "1 4",
      "stroke-linecap": "round",
    }),
    pin(px, py, { size: 5, isFaint: true }),
  );
}
