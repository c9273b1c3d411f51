// Which way a straight limb is to bend, asked on the stage: its two knees as they would lie, to be pressed.

import { onPressed, svg } from "../../elements/drawing.js";

const STRAIGHT = 0.05; // how far off the line from end to end, as a share of it, a joint lies at most
const OUT = 0.22; // how far out the knees are drawn, as a share of the limb

/** @param {Bench} bench */
export function makeKnees(bench, holder, { pivotOf, isSeen }) {
  /** The reach of a part that acts. */
  const reachOf = (part) => /** @type {any} */ (bench.part(part).constraints.find((one) => one.kind === "reach" && one.is_on));

  /** The limb of two bones that reaches with a part, or whose goal it is: its three joints on the screen. */
  function limbOf(id) {
    for (const part of [id, ...bench.order]) {
      const reach = reachOf(part);
      if (!reach || (part !== id && reach.goal.part !== id)) continue;
      const knee = bench.part(part).parent;
      const hip = knee && bench.part(knee).parent;
      if (reach.joints === 2 && !reach.tip && hip && isSeen(hip)) return { part, reach, joints: [hip, knee, part].map(pivotOf) };
    }
    return null;
  }

  return function knees(id) {
    const limb = limbOf(id);
    if (!limb) return;
    const [hip, knee, end] = limb.joints;
    const [dx, dy] = [end[0] - hip[0], end[1] - hip[1]];
    const length = Math.hypot(dx, dy);
    const off = Math.abs(dx * (knee[1] - hip[1]) - dy * (knee[0] - hip[0])) / (length * length || 1);
    if (length < 24 || off > STRAIGHT) return;
    for (const bends of [1, -1]) {
      const at = [knee[0] - dy * OUT * bends, knee[1] + dx * OUT * bends];
      const isOwn = limb.reach.bends === bends;
      const words = isOwn ? "It bends to this side" : "Bend to this side";
      const sign = svg("g", {
        tabindex: 0,
        role: "button",
        "aria-label": words,
        "aria-pressed": isOwn,
        "data-knee": bends,
        class: "cursor-pointer",
      });
      sign.append(
        svg("path", {
          d: `M${hip.join(" ")}L${at.join(" ")}L${end.join(" ")}`,
          fill: "none",
          class: "stroke-lagoon",
          "stroke-opacity": isOwn ? 0.7 : 0.35,
          "stroke-width": 1.6,
          "stroke-dasharray": "2 4",
          "pointer-events": "none",
        }),
        svg("circle", { cx: at[0], cy: at[1], r: 7, class: `${isOwn ? "fill-lagoon" : "fill-card"} stroke-lagoon`, "stroke-width": 2 }),
        svg("title", {}, words),
      );
      const bend = () =>
        isOwn ||
        bench.keep([{ edit: "change_constraint", part: limb.part, constraint: { ...limb.reach, bends: /** @type {1 | -1} */ (bends) } }]);
      sign.addEventListener("pointerdown", (event) => {
        event.stopPropagation();
        bend();
      });
      onPressed(sign, bend);
      holder.append(sign);
    }
  };
}
