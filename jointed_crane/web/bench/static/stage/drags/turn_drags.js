// Drags that turn and scale parts, about their own pivots or together.

import { readable, turnText } from "../../elements/drawing.js";

/** How large rings are drawn, px on the screen. */
export const RING = 64;
/** Shift turns in steps of this many degrees. */
const COARSE_TURN = 15;

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeTurnDrags(bench, view, handles, drag) {
  function turnDrag(start, turns = null) {
    if (turns) return ringDrag(start, turns);
    const parts = [...bench.picked];
    const lead = bench.lead;
    const isTogether = bench.isTogether;
    const pivot = isTogether ? handles.sharedCentre() : view.toScreen(view.pivot(lead));
    const centre = isTogether ? view.toStage(pivot) : null;
    const angle = ([x, y]) => (Math.atan2(y - pivot[1], x - pivot[0]) / Math.PI) * 180;
    let last = angle(start);
    let turned = 0;

    function about(step) {
      const degrees = step ? Math.round(turned / step) * step : turned;
      drag.text = turnText(degrees);
      drag.together = degrees;
      return [{ edit: "turn_about", parts, degrees, about: centre, frame: bench.at, ...view.through }];
    }

    /** What the number of the part picked last reads; the server knows which way it turns and where it ends. */
    function said(isPastLimits) {
      const shown = bench.value(lead, "turn.z");
      const [low, high] = (bench.isMotion && !isPastLimits && bench.part(lead).limits["turn.z"]) || [null, null];
      const isAtLimit = (low !== null && shown <= low) || (high !== null && shown >= high);
      return isAtLimit ? `${turnText(shown)} · the end of its range, Ctrl goes past it` : turnText(shown);
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

  /** Turn on one of the three rings, or on the one about the line of sight. */
  function ringDrag(start, turns) {
    const parts = [...bench.picked];
    const lead = bench.lead;
    const centre = view.toScreen(view.pivot(lead));
    const ways = bench.rings?.views[view.index]?.[`turn.${turns}`];
    const last = { angle: ringAngle(start, centre, ways), turned: 0 };
    return {
      move(at, event) {
        const now = ringAngle(at, centre, ways);
        let step = now - last.angle;
        if (step > 180) step -= 360;
        if (step < -180) step += 360;
        last.turned += event.altKey ? step / 10 : step;
        last.angle = now;
        const step15 = event.shiftKey ? COARSE_TURN : 0;
        const isSight = turns === "sight";
        drag.text = () => (isSight ? turnText(last.turned) : `${turns} ${turnText(bench.value(lead, `turn.${turns}`))}`);
        return [
          {
            edit: "turn_by",
            parts,
            degrees: last.turned,
            step: step15,
            about: turns,
            frame: bench.at,
            past_limits: event.ctrlKey,
            ...(isSight && view.through),
          },
        ];
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
          return [{ edit: "scale_about", parts: bench.picked, factor, about: centre, frame: bench.at, ...view.through }];
        },
      };
    }
    return {
      move(now, event) {
        const lead = bench.lead;
        drag.text = () => `${readable(bench.value(lead, "scale.x"), 3, true)} × ${readable(bench.value(lead, "scale.y"), 3, true)}`;
        const both = event.shiftKey ? "both" : axes;
        return [
          {
            edit: "scale_toward",
            parts,
            start,
            now: view.toStage(now),
            axes: both,
            frame: bench.at,
            past_limits: event.ctrlKey,
            ...view.through,
          },
        ];
      },
    };
  }

  return { turnDrag, scaleDrag };
}

/**
 * The angle at which a place lies on a ring as it is seen: `ways` lead from its centre to 0 and to 90 degrees, without them it is
 * seen from straight above. On one that is seen nearly edge-on the way along it counts.
 * @param {number[]} place
 * @param {number[]} centre
 * @param {number[] | undefined} ways
 */
function ringAngle([x, y], [cx, cy], ways) {
  const [dx, dy] = [x - cx, y - cy];
  if (!ways) return (Math.atan2(dy, dx) / Math.PI) * 180;
  const [ax, ay, nearA, bx, by, nearB] = ways;
  const area = ax * by - ay * bx;
  const size = Math.hypot(ax, ay, bx, by);
  const sign = Math.sign(area);
  if (Math.abs(area) > 0.12 * size ** 2) return (Math.atan2(sign * (ax * dy - ay * dx), sign * (dx * by - dy * bx)) / Math.PI) * 180;
  // The nearer side of the ring goes along with the pointer.
  const isA = Math.hypot(ax, ay) > Math.hypot(bx, by);
  const [lx, ly] = isA ? [ax, ay].map((value) => (nearB > 0 ? -value : value)) : [bx, by].map((value) => (nearA > 0 ? value : -value));
  return ((dx * lx + dy * ly) / Math.hypot(lx, ly) / RING / Math.PI) * 180;
}
