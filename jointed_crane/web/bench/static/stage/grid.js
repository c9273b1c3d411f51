// The ground grid of straight views: squares as on the mat, and the two axes of the stage that lie across, named where they lead.

import { clamp, svg } from "../elements/drawing.js";
import { fitSquares, squaresPattern } from "./ground.js";

const FAR = 20000;
/** The views that see two axes of the stage as they are. */
const STRAIGHT = ["front", "back", "top", "below", "left", "right"];

/**
 * The element, and what draws it anew.
 * @param {View} view
 */
export function makeGrid(view) {
  const id = `grid-${view.index}`;
  const pattern = squaresPattern(id);
  const squares = svg("rect", { width: 2 * FAR, height: 2 * FAR, fill: `url(#${id})`, "fill-opacity": 0.25 });
  const lying = svg("g", {}, squares);
  const axes = svg("g", { "data-stage-axes": "" });
  const grid = svg("g", {}, pattern, lying, axes);

  function draw() {
    const isStraight = STRAIGHT.includes(view.look.side);
    grid.setAttribute("display", isStraight ? "inline" : "none");
    if (!isStraight) return;
    const { map } = view.sight;
    const { x, y, k } = view;
    lying.setAttribute("transform", `scale(${k}) translate(${map[3] - x} ${map[7] - y})`);
    squares.setAttribute("x", -FAR);
    squares.setAttribute("y", -FAR);
    fitSquares(pattern, k);
    axes.replaceChildren(...["x", "y", "z"].flatMap((name, axis) => axisSeen(view, name, [map[axis], map[4 + axis]])));
  }
  return { grid, draw };
}

/** An axis of the stage through its zero, with its name where it leads; none where it is looked along. */
function axisSeen(view, name, [across, down]) {
  if (Math.hypot(across, down) < 0.5) return [];
  const { map } = view.sight;
  const [x, y] = view.toScreen([map[3], map[7]]);
  const { width, height } = view.element.getBoundingClientRect();
  const isAcross = Math.abs(across) > 0.5;
  const line = isAcross ? `M0 ${y}H${width}` : `M${x} 0V${height}`;
  // Where an axis leads down its name stands above the word that says the zoom.
  const at = isAcross
    ? { x: across > 0 ? width - 16 : 8, y: clamp(y - 6, 16, height - 8) }
    : { x: clamp(x + 6, 8, width - 16), y: down > 0 ? height - 30 : 20 };
  return [
    svg("path", { d: line, class: "stroke-mute", "stroke-width": 1.2, "stroke-opacity": 0.7 }),
    svg("text", { ...at, class: "fill-ink text-[11.5px] font-semibold" }, name),
  ];
}
