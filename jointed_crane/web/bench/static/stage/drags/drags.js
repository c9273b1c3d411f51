// The kinds of drags on the stage: each gives the edits for where the pointer is, and says its number in the tag.

import { partUnder } from "../hovering.js";
import { readable, svg } from "../../elements/drawing.js";
import { makePointDrags } from "./point_drags.js";
import { makeSpotDrags } from "./spot_drags.js";
import { makeTurnDrags } from "./turn_drags.js";
import { makeViewDrags } from "./view_drags.js";

/**
 * A drag is {move(at, event)} and, where it needs them, tap() for a press without a move, drop(event, hasMoved) instead
 * of keeping edits, and undo() when it ends. `drag.text` may be a function: it is asked again when the answer comes.
 * @param {Shared} shared
 */
/**
 * A box over what is to be picked: all that lies in it whole, with Shift on top of what is picked.
 * @param {Shared} shared
 */
function boxDrag({ bench, view, over, drag }, start, isMore) {
  const box = svg("rect", {
    class: "stroke-lagoon fill-lagoon",
    "fill-opacity": 0.1,
    "stroke-dasharray": "4 3",
    "pointer-events": "none",
  });
  const known = isMore ? [...bench.picked] : [];
  let result = null;
  return {
    undo: () => box.remove(),
    move([x, y]) {
      over.append(box);
      const [left, top, right, bottom] = [Math.min(x, start[0]), Math.min(y, start[1]), Math.max(x, start[0]), Math.max(y, start[1])];
      for (const [name, value] of Object.entries({ x: left, y: top, width: right - left, height: bottom - top }))
        box.setAttribute(name, value);
      const edge = view.element.getBoundingClientRect();
      result = bench.order.filter((id) => {
        const seen = seenBox(bench, view, id);
        if (!seen) return false;
        const isInside = seen.left >= edge.left + left && seen.right <= edge.left + right;
        return isInside && seen.top >= edge.top + top && seen.bottom <= edge.top + bottom;
      });
      drag.text = result.length === 1 ? bench.part(result[0]).name : `${result.length} parts`;
      drag.redraw();
      return null;
    },
    drop(_, hasMoved) {
      if (hasMoved && result) bench.pick([...known, ...result]);
      else if (!isMore) bench.pick([]);
    },
  };
}

/**
 * Where a part that can be picked is seen on the screen; nothing where it is not.
 * @param {Bench} bench
 * @param {View} view
 */
function seenBox(bench, view, id) {
  if (bench.part(id).locked || !bench.isSeen(id)) return null;
  const shapes = [...view.element.querySelectorAll(`[data-pick="${CSS.escape(id)}"]`)].filter((one) => one.checkVisibility());
  const boxes = shapes.map((one) => one.getBoundingClientRect()).filter(({ width, height }) => width || height);
  return boxes[0] ?? null;
}

export function makeDrags({ bench, view, handles, over, drag }) {
  function panDrag(at) {
    let last = at;
    return {
      move([x, y]) {
        view.pan(x - last[0], y - last[1]);
        last = [x, y];
        return null;
      },
    };
  }

  function moveDrag(start, parts = [...bench.picked]) {
    const taken = view.toStage(start);
    return {
      move([x, y], event) {
        let by = [(x - start[0]) / view.k, (y - start[1]) / view.k];
        if (event.altKey) by = by.map((value) => value / 10);
        if (event.shiftKey) by = Math.abs(by[0]) > Math.abs(by[1]) ? [by[0], 0] : [0, by[1]];
        drag.text = `${readable(by[0], 1)}, ${readable(by[1], 1)} px`;
        return [{ edit: "lead", parts, by, at: taken, frame: bench.at, past_limits: event.ctrlKey, ...view.through }];
      },
    };
  }

  /** Ctrl draws a line from child to parent; letting go over a part joins the picked ones to it. */
  function joinDrag(id, start) {
    if (!bench.picked.includes(id)) bench.pick([id]);
    const parts = [...bench.picked];
    const line = svg("path", {
      class: "stroke-lagoon",
      "stroke-width": 2.5,
      "stroke-linecap": "round",
      fill: "none",
      "pointer-events": "none",
    });
    over.append(line);
    return {
      undo: () => line.remove(),
      move([x, y], event) {
        line.setAttribute("d", `M${start.join(" ")}L${x} ${y}`);
        const parent = partUnder(event);
        bench.hover(parent);
        drag.text =
          parent && !parts.includes(parent) ? `on ${bench.part(parent).name}${event.shiftKey ? ", snapped" : ""}` : "on the stage";
        drag.redraw();
        return null;
      },
      drop(event, hasMoved) {
        if (!hasMoved) return bench.togglePick(id);
        const parent = partUnder(event);
        if (parent && parts.includes(parent)) return;
        bench.keep([{ edit: "join", parts, parent, place: event.shiftKey ? "snapped" : "kept", frame: bench.at }]);
      },
    };
  }

  return {
    panDrag,
    boxDrag: (start, isMore) => boxDrag({ bench, view, over, drag }, start, isMore),
    moveDrag,
    joinDrag,
    ...makePointDrags(bench, view, drag),
    ...makeViewDrags(bench, view, drag),
    ...makeSpotDrags(bench, view, drag),
    ...makeTurnDrags(bench, view, handles, drag),
  };
}
