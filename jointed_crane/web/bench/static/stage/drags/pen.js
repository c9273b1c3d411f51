// The pen of the Draw tool: a press sets a node, a drag pulls its handles, until the path is closed or ended.

import { svg } from "../../elements/drawing.js";

/** How near a press must come to the first node to close the path, px on the screen. */
const CLOSE = 9;

/**
 * The path so far is drawn in `sketch`; `done(nodes, isClosed)` takes it when it ends.
 * @param {any} root
 * @param {View} view
 */
export function makePen(root, view, sketch, done) {
  const dots = svg("g", { "pointer-events": "none" });
  root.append(dots);
  let nodes = [];

  function press(start) {
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
    if (nodes.length < 2) return void cancel();
    return done(nodes, isClosed);
  }

  function cancel() {
    const hadNodes = nodes.length > 0;
    nodes = [];
    sketch.setAttribute("d", "");
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

  return {
    press,
    cancel,
    words: () =>
      nodes.length
        ? "Click sets the next node, on the first one closes; Enter ends it open"
        : "Click sets the first node; drags pull handles",
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
