// The ring by which parts are turned, and the corners by which several are scaled together.

import { svg } from "../../elements/drawing.js";
import { spaceRings } from "./space_rings.js";

const [LEAST, MOST] = [34, 62];

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeRings(bench, view, holder, drag, { pivotOf, screen }) {
  /** Where picked parts turn together, on the screen. */
  function sharedCentre() {
    const mark = bench.marks.find((other) => other.id === bench.about);
    if (mark) return view.onStage(mark.place);
    if (bench.about === "last picked") return pivotOf(bench.lead);
    const places = bench.picked.map(pivotOf);
    return [0, 1].map((axis) => places.reduce((sum, place) => sum + place[axis], 0) / places.length);
  }

  function sharedRing(id) {
    const [x, y] = sharedCentre();
    ringAt({ holder, id, x, y, radius: MOST }, drag.together ?? 0, null);
    holder.append(
      svg("path", {
        d: `M${x - 7} ${y}H${x + 7}M${x} ${y - 7}V${y + 7}`,
        class: "stroke-lagoon",
        "stroke-width": 2,
        "pointer-events": "none",
      }),
    );
  }

  function sharedScale() {
    const [x, y] = sharedCentre();
    for (const [dx, dy] of [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ]) {
      const at = [x + dx * MOST, y + dy * MOST];
      holder.append(
        svg("path", {
          d: `M${x} ${y}L${at.join(" ")}`,
          class: "stroke-lagoon",
          "stroke-width": 1,
          "stroke-dasharray": "4 3",
          "pointer-events": "none",
        }),
        svg("rect", {
          x: at[0] - 5.5,
          y: at[1] - 5.5,
          width: 11,
          height: 11,
          rx: 2,
          class: "fill-card stroke-lagoon cursor-grab",
          "stroke-width": 2,
          "data-scale": "both",
        }),
      );
    }
  }

  function ring(id) {
    if (bench.isDeep) return spaceRings({ bench, view, holder }, id, pivotOf(id));
    const [x, y] = pivotOf(id);
    const limit = bench.isMotion ? bench.part(id).limits["turn.z"] : null;
    ringAt({ holder, id, x, y, radius: radiusOf(id) }, bench.value(id, "turn.z"), limit);
  }

  /** A ring is as large as its part on the screen asks for, so that a small one does not lie over its neighbours. */
  function radiusOf(id) {
    const box = bench.drawingOf(id)?.bounds;
    if (!box) return MOST;
    const [left, top, right, bottom] = box;
    const [a, b, c] = [screen(id, [left, top]), screen(id, [right, top]), screen(id, [left, bottom])];
    const longest = Math.max(Math.hypot(b[0] - a[0], b[1] - a[1]), Math.hypot(c[0] - a[0], c[1] - a[1]));
    return Math.min(Math.max(longest * 0.6, LEAST), MOST);
  }

  return { sharedCentre, sharedRing, sharedScale, ring };
}

/** A ring with a knob at an angle, the way there from straight up, and the allowed range. */
function ringAt({ holder, id, x, y, radius }, degrees, limit) {
  const radians = (degrees / 180) * Math.PI;
  const knob = [x + radius * Math.sin(radians), y - radius * Math.cos(radians)];
  holder.append(
    svg("circle", {
      cx: x,
      cy: y,
      r: radius,
      fill: "none",
      class: "stroke-lagoon",
      "stroke-opacity": limit ? 0.16 : 0.28,
      "stroke-width": 9,
      "pointer-events": "none",
    }),
    ...allowed(x, y, radius, limit),
    svg("path", {
      d: between(x, y, radius, Math.min(degrees, 0), Math.max(degrees, 0)),
      fill: "none",
      class: "stroke-lagoon",
      "stroke-opacity": 0.75,
      "stroke-width": 9,
      "pointer-events": "none",
    }),
    svg("path", { d: `M${x} ${y}L${knob.join(" ")}`, class: "stroke-lagoon", "stroke-width": 1.4, "pointer-events": "none" }),
    svg("circle", {
      cx: x,
      cy: y,
      r: radius,
      fill: "none",
      stroke: "transparent",
      "stroke-width": 18,
      "pointer-events": "stroke",
      class: "cursor-grab",
      "data-ring": id,
    }),
    svg("circle", { cx: knob[0], cy: knob[1], r: 7, class: "fill-card stroke-lagoon cursor-grab", "stroke-width": 2.4, "data-ring": id }),
  );
}

/** The allowed range as the darker arc; a side that is open reaches half round. */
function allowed(x, y, radius, limit) {
  if (!limit) return [];
  const [low, high] = [Math.max(limit[0] ?? -180, -359.9), Math.min(limit[1] ?? 180, 359.9)];
  const shape = { fill: "none", class: "stroke-lagoon", "stroke-opacity": 0.4, "stroke-width": 9, "pointer-events": "none" };
  return [svg("path", { d: between(x, y, radius, low, high), ...shape })];
}

/** The arc from one angle to another, both clockwise from straight up; a whole turn and more is a closed ring. */
function between(x, y, radius, low, high) {
  const at = (degrees) => {
    const radians = (degrees / 180) * Math.PI;
    return `${x + radius * Math.sin(radians)} ${y - radius * Math.cos(radians)}`;
  };
  const span = high - low;
  if (span >= 359.9) return `M${at(0)}A${radius} ${radius} 0 1 1 ${at(359.9)}`;
  return `M${at(low)}A${radius} ${radius} 0 ${span > 180 ? 1 : 0} 1 ${at(high)}`;
}
