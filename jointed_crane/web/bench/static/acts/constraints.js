// Constraints of the picked part: what it reaches for, points at, follows, lies between.

import { notice } from "../../notices.js";
import { freshId } from "../state.js";

const GOALS = { between: 2, span: 2 };
const nameOf = (kind) => kind[0].toUpperCase() + kind.slice(1);

export function constraintActs({ bench, keep, frame, some }, acts) {
  /** The other picked parts are the goals; a mark that is picked is one too. */
  function goalsPicked() {
    const parts = bench.picked.slice(0, -1).map((part) => ({ at: "pivot", part }));
    return bench.spot?.mark ? [...parts, { at: "mark", named: bench.spot.mark }] : parts;
  }

  /** The middles of the two ends of the art, along its longer side. */
  function ends() {
    const [left, top, right, bottom] = bench.drawingOf(bench.lead)?.bounds ?? [0, 0, 100, 0];
    const [x, y] = [(left + right) / 2, (top + bottom) / 2];
    return right - left > bottom - top ? [[left, y, 0], [right, y, 0]] : [[x, top, 0], [x, bottom, 0]];
  }

  function made(kind, goals) {
    const own = { id: freshId(), name: nameOf(kind), kind };
    if (kind === "between") return { ...own, goals };
    if (kind === "span") return { ...own, first: goals[0], second: goals[1], points: ends() };
    if (kind === "stay above") return { ...own, line: goals[0], towards: goals[1] ?? null };
    return { ...own, goal: goals[0] };
  }

  return {
    /** One command reaches: without a goal picked one is made on the spot, and nothing moves. */
    reach: some(async () => {
      const id = freshId();
      if (goalsPicked().length) return acts.constrain("reach");
      if (await keep("make_reach", { part: bench.lead, id, frame: frame() })) bench.pick([`${id}-goal`]);
    }),
    constrain(kind) {
      return some(() => {
        const goals = goalsPicked();
        if (kind === "reach" && !goals.length) return acts.reach();
        const wanted = GOALS[kind] ?? 1;
        if (goals.length < wanted) return notice(`${nameOf(kind)} needs ${wanted === 1 ? "a goal" : "two goals"}: pick ${wanted === 1 ? "it" : "them"} first, then the part with Shift on the stage or Ctrl in the tree.`);
        return keep("constrain", { part: bench.lead, constraint: made(kind, goals), frame: frame() });
      })();
    },
    /** The picked part's chain, or the one whose goal is picked, bends on the other side. */
    bendOther: some(() => {
      const reaches = [bench.lead, ...bench.order].flatMap((part) => bench.part(part).constraints.filter(({ kind }) => kind === "reach").map((constraint) => ({ part, constraint })));
      const found = reaches.find(({ part, constraint }) => part === bench.lead || constraint.goal.part === bench.lead);
      if (!found) return notice("Nothing that is picked reaches. Pick a hand and press Shift+O to have it reach.");
      return keep("change_constraint", { ...found, constraint: { ...found.constraint, bends: -found.constraint.bends } });
    }),
  };
}
