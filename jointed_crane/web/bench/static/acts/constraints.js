// Constraints of the picked part: what it reaches for, points at, follows, lies between.

import { notice } from "../../notices.js";
import { freshId } from "../fresh_id.js";

const NOTHING_REACHES = "Nothing that is picked reaches. Pick a hand and press Shift+O to have it reach.";
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

  /** Helpers for the goals that a kind needs, where nothing moves by them: edits that add them. */
  function onTheSpot(kind) {
    const { name } = bench.part(bench.lead);
    const { pivot, matrix } = bench.poseOf(bench.lead);
    const [x, y] = pivot;
    const size = Math.hypot(matrix[0], matrix[1]) || 1;
    const along = (by) => [x + (by * matrix[0]) / size, y + (by * matrix[1]) / size];
    const places = {
      "point at": [along(120)],
      follow: [[x, y]],
      between: [along(-80), along(80)],
      span: ends().map((point) => bench.onStage(bench.lead, point)),
      "stay above": [bench.onStage(bench.lead, lowest())],
    }[kind] ?? [];
    return places.map((place, index) => ({ edit: "add_helper", id: freshId(), place, name: `${name} goal${places.length > 1 ? ` ${index + 1}` : ""}`, frame: frame() }));
  }

  /** The lower middle of the art, or its pivot. */
  function lowest() {
    const [left, , right, bottom] = bench.drawingOf(bench.lead)?.bounds ?? [];
    return bottom === undefined ? bench.part(bench.lead).pivot : [(left + right) / 2, bottom];
  }

  function made(kind, goals) {
    const own = { id: freshId(), name: nameOf(kind), kind };
    if (kind === "between") return { ...own, goals };
    if (kind === "span") return { ...own, first: goals[0], second: goals[1], points: ends() };
    if (kind === "along a path") return { ...own, goal: { at: "pivot", part: goals[0].part } };
    if (kind === "stay above") return { ...own, line: goals[0], towards: goals[1] ?? null };
    return { ...own, goal: goals[0] };
  }

  /** The reach of this id of the picked part, or the first that it has or is the goal of: {part, constraint}. */
  function reachOf(id) {
    const reaches = [bench.lead, ...bench.order].flatMap((part) => bench.part(part).constraints.filter(({ kind }) => kind === "reach").map((constraint) => ({ part, constraint })));
    return reaches.find(({ part, constraint }) => (id ? constraint.id === id : part === bench.lead || constraint.goal.part === bench.lead));
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
        if (kind === "carry") return acts.carry();
        if (kind === "along a path" && !goals.length) return notice("Along a path needs a path: pick a part with a shape first, then the part with Shift on the stage or Ctrl in the tree.");
        const helpers = onTheSpot(kind).slice(goals.length);
        const found = [...goals, ...helpers.map(({ id }) => ({ at: "pivot", part: id }))];
        return bench.keep([...helpers, { edit: "constrain", part: bench.lead, constraint: made(kind, found), frame: frame() }]);
      })();
    },
    /** From this frame on the part picked before carries the one picked last. */
    carry: some(async () => {
      const by = bench.picked.at(-2);
      if (!by) return notice("Pick what carries first, then the part that is carried, with Shift on the stage or Ctrl in the tree.");
      await bench.seek(bench.frame);
      return keep("carry_from", { part: bench.lead, by, frame: bench.frame, id: freshId() });
    }),
    putDown: some(async () => {
      if (!bench.part(bench.lead).constraints.some(({ kind }) => kind === "carry")) return notice(`Nothing carries ${bench.part(bench.lead).name}. Pick what is to carry it first, then it too.`);
      await bench.seek(bench.frame);
      return keep("carry_from", { part: bench.lead, by: null, frame: bench.frame, id: freshId() });
    }),
    /** From this frame on the chain is turned by hand where it reached, and reaches where it was turned, from the pose it has. */
    matchReach: some(async (id) => {
      const found = reachOf(id);
      if (!found) return notice(NOTHING_REACHES);
      await bench.seek(bench.frame);
      const before = found.constraint.changes.filter(({ frame }) => frame < bench.frame).at(-1);
      const to = (before?.to ?? "reach") === "reach" ? "turn" : "reach";
      return keep("match_reach", { part: found.part, constraint: found.constraint.id, to, frame: bench.frame });
    }),
    /** Keys in the place of a constraint of the picked part, by default of the last that acts. */
    keepAsKeys: some((id) => {
      const { name, constraints } = bench.part(bench.lead);
      const constraint = id ?? constraints.filter(({ is_on }) => is_on).at(-1)?.id;
      if (!constraint) return notice(`${name} has no constraint to keep as keys.`);
      return keep("keep_as_keys", { part: bench.lead, constraint });
    }),
    /** The picked part's chain, or the one whose goal is picked, bends on the other side. */
    bendOther: some(() => {
      const found = reachOf();
      if (!found) return notice(NOTHING_REACHES);
      return keep("change_constraint", { ...found, constraint: { ...found.constraint, bends: -found.constraint.bends } });
    }),
  };
}
