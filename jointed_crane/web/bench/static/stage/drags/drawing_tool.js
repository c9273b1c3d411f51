// The Draw tool: rectangles, ellipses and polygons by dragging, pen paths node by node.

import { notice } from "../../../notices.js";
import { readable, svg } from "../../elements/drawing.js";
import { makePen } from "./pen.js";
import { boxCorners, polygonCorners, shapeBetween } from "./sketching.js";

const PAINTS = ["#6f8f8b", "#c99a53", "#c86b4a", "#7f94a6", "#8a7a5c"];
const NAMES = { rectangle: "Rectangle", ellipse: "Ellipse", polygon: "Polygon", path: "Path" };

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeDrawingTool(root, bench, view, acts, drag, choice) {
  const sketch = svg("path", {
    fill: "none",
    class: "stroke-lagoon",
    "stroke-width": 2,
    "stroke-dasharray": "5 3",
    "pointer-events": "none",
  });
  root.append(sketch);

  const form = () => choice.value;
  const paint = () => ({ fill: PAINTS[bench.order.length % PAINTS.length] });

  function drawSketch(points, isClosed = true) {
    sketch.setAttribute("d", points.length > 1 ? `M${points.map((point) => point.join(" ")).join("L")}${isClosed ? "Z" : ""}` : "");
  }

  async function done(shape) {
    cancel();
    bench.setTool("move");
    await acts.addShape(shape, NAMES[shape.form]);
  }

  function cancel() {
    drawSketch([]);
    return pen.cancel();
  }

  const pen = makePen(root, view, sketch, (contour, isClosed) => {
    const contours = [contour];
    const closed = { form: "path", contours, paint: paint() };
    const open = { form: "path", contours, is_closed: false, paint: { fill: "", stroke: paint().fill, width: 6 } };
    return done(isClosed ? closed : open);
  });

  /** A press on the stage with this tool; for pen paths it sets a node, and a drag pulls its handles. */
  function begin(at) {
    if (!view.isFromFront) return void notice("Shapes are drawn on the plane of the stage. Draw in its own view, or in the front one.");
    return form() === "path" ? pen.press(at) : box(at);
  }

  function box(start) {
    const from = view.toStage(start);
    let now = null;
    return {
      undo: () => drawSketch([]),
      move(at, event) {
        now = shapeBetween(form(), from, view.toStage(at), event.shiftKey, paint());
        const corners = now.form === "polygon" ? polygonCorners(now) : boxCorners(/** @type {any} */ (now));
        drawSketch(corners.map((corner) => view.toScreen(corner)));
        const [width, height] = [at[0] - start[0], at[1] - start[1]].map((px) => Math.abs(px) / view.k);
        drag.text = `${readable(width, 1)} × ${readable(height, 1)} px`;
        drag.redraw();
        return null;
      },
      drop: (_, hasMoved) => hasMoved && now && done(now),
    };
  }

  bench.on("state", () => bench.tool !== "draw" && cancel());

  return {
    begin,
    cancel,
    words: () => (form() === "path" ? pen.words() : `Drag draws a ${NAMES[form()].toLowerCase()}; Shift keeps it even`),
  };
}
