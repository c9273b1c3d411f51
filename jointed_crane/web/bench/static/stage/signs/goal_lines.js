// Lines from a picked part to what its constraints refer to, each with the word of its kind.

import { svg } from "../../elements/drawing.js";
import { changesOf, fieldsOf, goalsOf } from "../../state/facts.js";

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeGoalLines(bench, view, holder, { pivotOf }) {
  /** Where a goal is shown, px on the screen; null where its part is not in sight. */
  function placeOf({ at, part, named, point }) {
    if (at === "mark") {
      const mark = bench.marks.find(({ id }) => id === named);
      return mark && view.onStage(mark.place);
    }
    if (!bench.poseOf(part) || !view.isInSight(part)) return null;
    if (at === "pivot") return pivotOf(part);
    const { eyelets, drawings } = bench.part(part);
    const [left, top, right, bottom] = drawings[0]?.bounds ?? [0, 0, 0, 0];
    const own = { centre: [(left + right) / 2, (top + bottom) / 2], point, eyelet: eyelets.find(({ id }) => id === named)?.point }[at];
    return own && view.screen(part, own);
  }

  /** The sign of a goal, which can be dragged: a mark by itself, anything else with its part. */
  function diamond({ part, named }, place) {
    // Signs of several goals at one place are fanned, so that each can be taken hold of.
    const at = place.map(Math.round).join(" ");
    const [x, y] = [place[0] + 11 * holder.querySelectorAll(`[data-goal-at="${at}"]`).length, place[1]];
    const held = part ? { "data-goal": part } : { "data-mark": named };
    const sign = svg("path", {
      d: `M${x - 6} ${y}l6 -6 6 6 -6 6Z`,
      class: "fill-card stroke-lagoon cursor-move",
      "data-goal-at": at,
      "stroke-width": 1.6,
      ...held,
    });
    sign.append(svg("title", {}, part ? `A drag moves ${bench.part(part).name}` : "A drag moves the mark"));
    return sign;
  }

  /** Whether its goals are those who carry the part one after the other. */
  const isCarried = ({ kind }) => !fieldsOf(kind, "goal").length;

  /** What carries at the frame shown. */
  function carriedBy(constraint) {
    const part =
      bench.isMotion &&
      changesOf(constraint)
        .filter(({ frame }) => frame <= bench.frame)
        .at(-1)?.part;
    return part ? [{ at: "pivot", part }] : [];
  }

  /** The lines of one part; constraints that do not act are fainter. */
  return function goalLines(id) {
    const [x, y] = pivotOf(id);
    for (const constraint of bench.part(id).constraints) {
      for (const one of isCarried(constraint) ? carriedBy(constraint) : goalsOf(constraint)) {
        const to = placeOf(one);
        if (!to) continue;
        const group = svg("g", { opacity: constraint.is_on ? 1 : 0.4, "data-goal-line": constraint.id });
        group.append(
          svg("path", {
            d: `M${x} ${y}L${to.join(" ")}`,
            class: "stroke-lagoon",
            "stroke-width": 1.4,
            "stroke-dasharray": "7 4",
            fill: "none",
            "pointer-events": "none",
          }),
          diamond(one, to),
          svg(
            "text",
            { x: (x + to[0]) / 2 + 6, y: (y + to[1]) / 2 - 6, class: "fill-ink text-[11.5px] font-semibold", "pointer-events": "none" },
            constraint.kind,
          ),
        );
        holder.append(group);
      }
    }
  };
}
