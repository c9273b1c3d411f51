// The small picture of the art with its nine points, on which a click puts the pivot.

import { onPressed, pin, svg } from "../elements/drawing.js";
import { ringsPath } from "../stage/figures.js";
import { movePivot } from "./pivot_numbers.js";

const NINE = [0, 0.5, 1].flatMap((y) => [0, 0.5, 1].map((x) => [x, y]));
const NAMES = [
  "upper left corner",
  "upper middle",
  "upper right corner",
  "left middle",
  "centre",
  "right middle",
  "lower left corner",
  "lower middle",
  "lower right corner",
];

const drawn = new WeakMap(); // what each picture shows: the drawing and the pivot

/** @param {Bench} bench */
export function drawPivotPicture(picture, bench) {
  const drawing = bench.lead && bench.drawingOf(bench.lead);
  const { pivot } = bench.part(bench.lead) ?? {};
  // A limb that is turned shows the same picture all the while.
  if (drawn.get(picture)?.drawing === drawing && String(drawn.get(picture)?.pivot) === String(pivot)) return;
  drawn.set(picture, { drawing, pivot });
  picture.replaceChildren();
  picture.toggleAttribute("hidden", !drawing);
  if (!drawing) return;
  const [left, top, right, bottom] = drawing.bounds;
  const room = Math.max(right - left, bottom - top) || 1;
  // Very flat art is drawn wider than it is, so that its nine points can be told apart.
  const [kx, ky] = [right - left, bottom - top].map((size) => Math.max(72 / room, 34 / (size || 1)));
  const x0 = 46 - ((left + right) / 2) * kx;
  const y0 = 46 - ((top + bottom) / 2) * ky;
  const place = (/** @type {number[]} */ [x, y]) => [x0 + x * kx, y0 + y * ky];
  picture.append(
    svg("path", {
      d: ringsPath(drawing.outline),
      transform: `translate(${x0} ${y0}) scale(${kx} ${ky})`,
      class: "fill-mute",
      "fill-opacity": 0.45,
      "fill-rule": "evenodd",
    }),
  );
  picture.append(
    svg("rect", {
      x: x0 + left * kx,
      y: y0 + top * ky,
      width: (right - left) * kx,
      height: (bottom - top) * ky,
      fill: "none",
      class: "stroke-mute",
      "stroke-dasharray": "2 3",
    }),
  );
  NINE.forEach((share, index) => {
    const [x, y] = place([left + share[0] * (right - left), top + share[1] * (bottom - top)]);
    const button = svg("rect", {
      x: x - 4.5,
      y: y - 4.5,
      width: 9,
      height: 9,
      class: "fill-card stroke-brass cursor-pointer",
      "stroke-width": 1.4,
      tabindex: 0,
      role: "button",
      "aria-label": `Pivot to the ${NAMES[index]}`,
    });
    button.append(svg("title", {}, `Pivot to the ${NAMES[index]}`));
    const go = () => bench.keep(movePivot(bench, share, "fraction"));
    button.addEventListener("click", go);
    onPressed(button, go);
    picture.append(button);
  });
  const at = place(pivot).map((value) => Math.min(Math.max(value, 6), 86));
  const sign = pin(at[0], at[1], { size: 6 });
  sign.setAttribute("pointer-events", "none");
  picture.append(sign);
}
