// The Draw tool: rectangles, ellipses and polygons by dragging, pen paths node by node.

import { readable, svg } from "../../elements/drawing.js";
import { boxCorners, polygonCorners, shapeBetween } from "./sketching.js";

const PAINTS = ["#6f8f8b", "#c99a53", "#c86b4a", "#7f94a6", "#8a7a5c"];
const NAMES = { rectangle: "Rectangle", ellipse: "Ellipse", polygon: "Polygon", path: "Path" };
const CLOSE = 9;

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
  const dots = svg("g", { "pointer-events": "none" });
  root.append(sketch, dots);
  let nodes = [];

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

  /** A press on the stage with this tool; for pen paths it sets a node, and a drag pulls its handles. */
  function begin(at) {
    return form() === "path" ? pen(at) : box(at);
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

  function pen(start) {
    const first = nodes[0] && view.toScreen(nodes[0].point);
    if (first && nodes.length > 1 && Math.hypot(first[0] - start[0], first[1] - start[1]) < CLOSE)
      return { move: () => null, drop: () => finish(true) };
    const node = { point: view.toStage(start) };
    nodes.push(node);
    drawPen();
    return {
      move(at) {
        const pull = [(at[0] - start[0]) / view.k, (at[1] - start[1]) / view.k];
        node.handle_out = pull;
        node.handle_in = pull.map((value) => -value);
        drawPen();
        return null;
      },
      drop: () => drawPen(),
    };
  }

  function drawPen() {
    sketch.setAttribute("d", penPath(view, nodes));
    dots.replaceChildren(...nodes.map(({ point }, index) => nodeSign(view.toScreen(point), index)));
  }

  /** Enter ends an open path, a click on the first node a closed one. */
  function finish(isClosed) {
    if (nodes.length < 2) return cancel();
    const contours = [nodes];
    const closed = { form: "path", contours, paint: paint() };
    const open = { form: "path", contours, is_closed: false, paint: { fill: "", stroke: paint().fill, width: 6 } };
    return done(isClosed ? closed : open);
  }

  function cancel() {
    const hadNodes = nodes.length > 0;
    nodes = [];
    drawSketch([]);
    dots.replaceChildren();
    return hadNodes;
  }

  addEventListener(
    "keydown",
    (event) => {
      if (event.key !== "Enter" || !nodes.length || event.target.closest("dialog, input, select, textarea")) return;
      event.preventDefault();
      event.stopPropagation();
      finish(false);
    },
    { capture: true },
  );
  view.on(() => nodes.length && drawPen());
  bench.on("state", () => bench.tool !== "draw" && cancel());

  return {
    begin,
    cancel,
    words: () =>
      form() === "path"
        ? nodes.length
          ? "Click sets the next node, on the first one closes; Enter ends it open"
          : "Click sets the first node; drags pull handles"
        : `Drag draws a ${NAMES[form()].toLowerCase()}; Shift keeps it even`,
  };
}

/**
 * Path data of the nodes that a pen has set, on the screen.
 * @param {View} view
 */
function penPath(view, nodes) {
  const shift = (point, by) => view.toScreen([point[0] + by[0], point[1] + by[1]]).join(" ");
  let path = "";
  nodes.forEach((node, index) => {
    const before = nodes[index - 1];
    const at = view.toScreen(node.point).join(" ");
    if (!before) path += `M${at}`;
    else path += `C${shift(before.point, before.handle_out ?? [0, 0])} ${shift(node.point, node.handle_in ?? [0, 0])} ${at}`;
  });
  return path;
}

/** The sign of a node; the first, which closes the path, has corners. */
const nodeSign = ([x, y], index) =>
  svg("rect", {
    x: x - 4,
    y: y - 4,
    width: 8,
    height: 8,
    rx: index ? 4 : 1,
    class: "fill-card stroke-lagoon",
    "stroke-width": 2,
  });
