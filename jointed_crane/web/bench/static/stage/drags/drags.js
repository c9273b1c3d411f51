// The kinds of drags on the stage: each gives the edits for where the pointer is, and says its number in the tag.

import { partUnder } from "../hovering.js";
import { readable, svg } from "../../elements/drawing.js";
import { makePointDrags } from "./point_drags.js";
import { makeSpotDrags } from "./spot_drags.js";
import { makeTurnDrags } from "./turn_drags.js";

/**
 * A drag is {move(at, event)} and, where it needs them, tap() for a press without a move, drop(event, hasMoved) instead
 * of keeping edits, and undo() when it ends. `drag.text` may be a function: it is asked again when the answer comes.
 * @param {Shared} shared
 */
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
        return [{ edit: "lead", parts, by, at: taken, frame: bench.at, past_limits: event.ctrlKey }];
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
    moveDrag,
    joinDrag,
    ...makePointDrags(bench, view, drag),
    ...makeSpotDrags(bench, view, drag),
    ...makeTurnDrags(bench, view, handles, drag),
  };
}
