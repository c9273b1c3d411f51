// Drags on the rings by which parts turn in depth.

import { turnText } from "../../elements/drawing.js";

/** How large rings are drawn, px on the screen. */
export const RING = 64;
/** Shift turns in steps of this many degrees. */
export const COARSE_TURN = 15;

/**
 * Turn on one of the three rings, or on the one about the line of sight.
 * @param {Shared} shared
 */
export function ringDrag({ bench, view, drag }, start, turns) {
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
