// The kinds of drags on the stage: each gives the edits for where the pointer is, and says its number in the tag.

import { readable, svg, turnText } from "./drawing.js";
import { freshId } from "./state.js";

/** How near a dragged point must come to a place to be drawn to it, px on the screen. */
const SNAP = 9;

/** Shift turns in steps of this many degrees. */
const COARSE_TURN = 15;

const inArt = ([x, y]) => `${readable(x, 1)}, ${readable(y, 1)} px in the art`;

/**
 * A drag is {move(at, event)} and, where it needs them, tap() for a press without a move, drop(event, hasMoved) instead
 * of keeping edits, and undo() when it ends. `drag.text` may be a function: it is asked again when the answer comes.
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

  function moveDrag(start) {
    const parts = [...bench.picked];
    return {
      move([x, y], event) {
        let by = [(x - start[0]) / view.k, (y - start[1]) / view.k];
        if (event.altKey) by = by.map((value) => value / 10);
        if (event.shiftKey) by = Math.abs(by[0]) > Math.abs(by[1]) ? [by[0], 0] : [0, by[1]];
        drag.text = `${readable(by[0], 1)}, ${readable(by[1], 1)} px`;
        return [{ edit: "move_by", parts, by, frame: bench.at, past_limits: event.ctrlKey }];
      },
    };
  }

  // Eyelets and marks

  function spotDrag(spot, start) {
    const place = spot.mark ? bench.spotThing.place : bench.onStage(spot.part, bench.spotThing.point);
    return {
      move([x, y], event) {
        const point = [place[0] + (x - start[0]) / view.k, place[1] + (y - start[1]) / view.k];
        if (spot.mark) {
          drag.text = () => bench.over?.snap ?? `${readable(point[0], 1)}, ${readable(point[1], 1)} px`;
          return [{ edit: "set_mark", mark: spot.mark, place: point, ...bench.snapping(event.altKey, SNAP / view.k), frame: bench.at }];
        }
        drag.text = () => bench.over?.snap ?? inArt(bench.spotThing.point);
        return [{ edit: "move_eyelet", ...spot, point, unit: "stage", ...bench.snapping(event.altKey, SNAP / view.k), frame: bench.at }];
      },
    };
  }

  /** A press with the Eyelet tool: a click leaves an eyelet there, a drag carries it to its place first. */
  function newEyelet(part, start) {
    const id = freshId();
    const edits = (at, isLeft) => [{ edit: "add_eyelet", part, id, point: view.toStage(at), unit: "stage", ...bench.snapping(isLeft, SNAP / view.k), frame: bench.at }];
    return {
      tap: () => (queueMicrotask(() => bench.work.then(() => bench.pickSpot({ part, eyelet: id }))), edits(start, false)),
      move(at, event) {
        drag.text = () => bench.over?.snap ?? `eyelet of ${bench.part(part).name}`;
        return edits(at, event.altKey);
      },
    };
  }

  /** Ctrl draws a line from child to parent; letting go over a part joins the picked ones to it. */
  function joinDrag(id, start) {
    if (!bench.picked.includes(id)) bench.pick([id]);
    const parts = [...bench.picked];
    const line = svg("path", { class: "stroke-lagoon", "stroke-width": 2.5, "stroke-linecap": "round", fill: "none", "pointer-events": "none" });
    over.append(line);
    const under = (event) => document.elementFromPoint(event.clientX, event.clientY)?.dataset?.pick ?? null;
    return {
      undo: () => line.remove(),
      move([x, y], event) {
        line.setAttribute("d", `M${start.join(" ")}L${x} ${y}`);
        const parent = under(event);
        bench.hover(parent);
        drag.text = parent && !parts.includes(parent) ? `on ${bench.part(parent).name}${event.shiftKey ? ", snapped" : ""}` : "on the stage";
        drag.redraw();
        return null;
      },
      drop(event, hasMoved) {
        if (!hasMoved) return bench.togglePick(id);
        const parent = under(event);
        if (parent && parts.includes(parent)) return;
        bench.keep([{ edit: "join", parts, parent, place: event.shiftKey ? "snapped" : "kept", frame: bench.at }]);
      },
    };
  }

  function turnDrag(start) {
    const parts = [...bench.picked];
    const lead = bench.lead;
    const isTogether = bench.isTogether;
    const pivot = isTogether ? handles.sharedCentre() : view.toScreen(bench.poseOf(lead).pivot);
    const centre = isTogether ? view.toStage(pivot) : null;
    const angle = ([x, y]) => (Math.atan2(y - pivot[1], x - pivot[0]) / Math.PI) * 180;
    let last = angle(start);
    let turned = 0;

    function about(step) {
      const degrees = step ? Math.round(turned / step) * step : turned;
      drag.text = turnText(degrees);
      drag.together = degrees;
      return [{ edit: "turn_about", parts, degrees, about: centre, frame: bench.at }];
    }

    /** What the number of the part picked last reads; the server knows which way it turns and where it ends. */
    function said(isPastLimits) {
      const shown = bench.value(lead, "turn.z");
      const [low, high] = (bench.isMotion && !isPastLimits && bench.part(lead).limits["turn.z"]) || [null, null];
      const isAtLimit = (low !== null && shown <= low) || (high !== null && shown >= high);
      return isAtLimit ? `${turnText(shown)} · its limit, Ctrl goes past it` : turnText(shown);
    }

    return {
      move(at, event) {
        const now = angle(at);
        let step = now - last;
        if (step > 180) step -= 360;
        if (step < -180) step += 360;
        turned += event.altKey ? step / 10 : step;
        last = now;
        const coarse = event.shiftKey ? COARSE_TURN : 0;
        if (isTogether) return about(coarse);
        const isPastLimits = event.ctrlKey;
        drag.text = () => said(isPastLimits);
        return [{ edit: "turn_by", parts, degrees: turned, step: coarse, frame: bench.at, past_limits: isPastLimits }];
      },
    };
  }

  function scaleDrag(at, axes) {
    const parts = [bench.lead, ...bench.picked.filter((id) => id !== bench.lead)];
    const start = view.toStage(at);
    if (bench.isTogether) {
      const centre = view.toStage(handles.sharedCentre());
      const reach = Math.hypot(start[0] - centre[0], start[1] - centre[1]);
      return {
        move(now) {
          const [x, y] = view.toStage(now);
          const factor = ((x - centre[0]) * (start[0] - centre[0]) + (y - centre[1]) * (start[1] - centre[1])) / reach ** 2;
          drag.text = `× ${readable(factor, 3, true)}`;
          return [{ edit: "scale_about", parts: bench.picked, factor, about: centre, frame: bench.at }];
        },
      };
    }
    return {
      move(now, event) {
        const lead = bench.lead;
        drag.text = () => `${readable(bench.value(lead, "scale.x"), 3, true)} × ${readable(bench.value(lead, "scale.y"), 3, true)}`;
        const both = event.shiftKey ? "both" : axes;
        return [{ edit: "scale_toward", parts, start, now: view.toStage(now), axes: both, frame: bench.at, past_limits: event.ctrlKey }];
      },
    };
  }

  function pivotDrag(id, start) {
    const { pivot } = bench.poseOf(id);
    const keep = bench.keeps;
    return {
      move([x, y], event) {
        const by = [(x - start[0]) / view.k, (y - start[1]) / view.k];
        // With the pivot staying, the art follows the hand: the art point that comes under the pin lies the other way.
        const sign = keep === "pivot" ? -1 : 1;
        const point = [pivot[0] + sign * by[0], pivot[1] + sign * by[1]];
        drag.text = () => bench.over?.snap ?? inArt(bench.part(id).pivot);
        return [{ edit: "move_pivot", part: id, point, unit: "stage", keep, ...bench.snapping(event.altKey, SNAP / view.k), frame: bench.at }];
      },
    };
  }

  function sizeDrag(helper, start) {
    const pivot = view.toScreen(bench.poseOf(helper.id).pivot);
    const reach = Math.hypot(start[0] - pivot[0], start[1] - pivot[1]);
    return {
      move([x, y]) {
        const size = Math.max(4, (helper.size * Math.hypot(x - pivot[0], y - pivot[1])) / reach);
        drag.text = `drawn ${readable(size, 0)} px`;
        return [{ edit: "set_placement", part: helper.id, size }];
      },
    };
  }

  function nodeDrag({ pathNode: which, contour, nodeIndex }) {
    const fields = { part: bench.lead, drawing: bench.drawingOf(bench.lead).id, contour: Number(contour), node: Number(nodeIndex), which, frame: bench.at };
    return {
      move(at, event) {
        const point = view.toStage(at);
        drag.text = `${readable(point[0], 1)}, ${readable(point[1], 1)} px`;
        return [{ edit: "move_node", ...fields, point, breaks: event.altKey }];
      },
    };
  }

  /** The registration, dragged: the zero moves and the art stays, or the art slides under the zero. */
  function zeroDrag(id, start) {
    const [e, f] = bench.poseOf(id).matrix.slice(4);
    const keep = bench.keepsZero;
    const sign = keep === "art" ? 1 : -1;
    return {
      move([x, y], event) {
        const point = [e + (sign * (x - start[0])) / view.k, f + (sign * (y - start[1])) / view.k];
        drag.text = () => bench.over?.snap ?? "registration";
        return [{ edit: "move_registration", part: id, point, unit: "stage", keep, ...bench.snapping(event.altKey, SNAP / view.k), frame: bench.at }];
      },
    };
  }

  return { sizeDrag, nodeDrag, zeroDrag, panDrag, moveDrag, spotDrag, newEyelet, joinDrag, turnDrag, scaleDrag, pivotDrag };
}
