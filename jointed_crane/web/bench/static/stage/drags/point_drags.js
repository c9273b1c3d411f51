// Drags of single points of a part: its pivot, its registration, nodes of its path, the edge of a helper.

import { readable } from "../../elements/drawing.js";

export const inArt = (/** @type {number[]} */ [x, y]) => `${readable(x, 1)}, ${readable(y, 1)} px in the art`;

/**
 * What every edit of a dragged point says of how it is placed: in this view, at the frame shown, drawn to what is near.
 * @param {Bench} bench
 * @param {View} view
 */
export const placedIn = (bench, view) => (/** @type {boolean} */ isLeft) => ({
  unit: /** @type {const} */ ("stage"),
  snapping: bench.snapping(isLeft, view.k),
  frame: bench.at,
  ...view.through,
});

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makePointDrags(bench, view, drag) {
  const placed = placedIn(bench, view);
  function pivotDrag(id, start) {
    const pivot = view.pivot(id);
    const keep = bench.keeps;
    return {
      move([x, y], event) {
        const by = [(x - start[0]) / view.k, (y - start[1]) / view.k];
        // With the pivot staying, the art follows the hand: the art point that comes under the pin lies the other way.
        const sign = keep === "pivot" ? -1 : 1;
        const point = [pivot[0] + sign * by[0], pivot[1] + sign * by[1]];
        drag.text = () => bench.over?.snap ?? inArt(bench.part(id).pivot);
        return [
          {
            edit: "move_pivot",
            part: id,
            point,
            keep,
            ...placed(event.altKey),
          },
        ];
      },
    };
  }

  function sizeDrag(helper, start) {
    const pivot = view.toScreen(view.pivot(helper.id));
    const reach = Math.hypot(start[0] - pivot[0], start[1] - pivot[1]);
    return {
      move([x, y]) {
        const size = Math.max(4, (helper.size * Math.hypot(x - pivot[0], y - pivot[1])) / reach);
        drag.text = `drawn ${readable(size, 0)} px`;
        return [{ edit: "set_placement", part: helper.id, size }];
      },
    };
  }

  /** The registration, dragged: the zero moves and the art stays, or the art slides under the zero. */
  function zeroDrag(id, start) {
    const [e, f] = view.ofPart(id, [0, 0]);
    const keep = bench.keepsZero;
    const sign = keep === "art" ? 1 : -1;
    return {
      move([x, y], event) {
        const point = [e + (sign * (x - start[0])) / view.k, f + (sign * (y - start[1])) / view.k];
        drag.text = () => bench.over?.snap ?? "registration";
        return [
          {
            edit: "move_registration",
            part: id,
            point,
            keep,
            ...placed(event.altKey),
          },
        ];
      },
    };
  }

  return {
    pivotDrag,
    sizeDrag,
    nodeDrag: (node) => nodeDrag({ bench, view, drag }, node),
    zeroDrag,
  };
}

/**
 * A node of a path, or one of its handles.
 * @param {Shared} shared
 */
function nodeDrag({ bench, view, drag }, { pathNode: which, contour, nodeIndex }) {
  const fields = {
    part: bench.lead,
    drawing: bench.drawingOf(bench.lead).id,
    contour: Number(contour),
    node: Number(nodeIndex),
    which,
    frame: bench.at,
  };
  return {
    move(at, event) {
      const point = view.toStage(at);
      drag.text = `${readable(point[0], 1)}, ${readable(point[1], 1)} px`;
      return [{ edit: "move_node", ...fields, point, breaks: event.altKey, ...view.through }];
    },
  };
}
