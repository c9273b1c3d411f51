// Constraints of the picked part: what it reaches for, points at, follows, lies between.

import { notice } from "../../notices.js";
import { facts, fieldsOf } from "../state/facts.js";
import { freshId } from "../state/fresh_id.js";

const NOTHING_REACHES = "Nothing that is picked reaches. Pick a hand and press Shift+O to have it reach.";
const nameOf = (kind) => kind[0].toUpperCase() + kind.slice(1);

/** @param {Shared} shared */
export function constraintActs({ bench, keep, frame, some }, acts) {
  return {
    /** One command reaches: without a goal picked one is made on the spot, and nothing moves. */
    reach: some(async () => {
      const id = freshId();
      if (goalsPicked(bench).length) return acts.constrain("reach");
      if (await keep("make_reach", { part: bench.lead, id, frame: frame() })) bench.pick([`${id}-goal`]);
    }),
    constrain(kind) {
      return some(() => {
        const goals = goalsPicked(bench);
        if (kind === "reach" && !goals.length) return acts.reach();
        if (kind === "carry") return acts.carry();
        const helpers = onTheSpot(bench, kind).slice(goals.length);
        if (!goals.length && !helpers.length)
          return notice(`${nameOf(kind)} needs ${facts.constraints[kind].needs} with Shift on the stage or Ctrl in the tree.`);
        const result = [...goals, ...helpers.map(({ id }) => ({ at: "pivot", part: id }))];
        return bench.keep([...helpers, { edit: "constrain", part: bench.lead, constraint: made(bench, kind, result), frame: frame() }]);
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
      if (!bench.part(bench.lead).constraints.some(({ kind }) => kind === "carry"))
        return notice(`Nothing carries ${bench.part(bench.lead).name}. Pick what is to carry it first, then it too.`);
      await bench.seek(bench.frame);
      return keep("carry_from", { part: bench.lead, by: null, frame: bench.frame, id: freshId() });
    }),
    /** From this frame on the chain is turned by hand where it reached, and reaches where it was turned, from the pose it has. */
    matchReach: some(async (id) => {
      const result = reachOf(bench, id);
      if (!result) return notice(NOTHING_REACHES);
      await bench.seek(bench.frame);
      const to = doesReach(bench, result.constraint) ? "turn" : "reach";
      return keep("match_reach", { part: result.part, constraint: result.constraint.id, to, frame: bench.frame });
    }),
    matchWords: (id) => {
      const result = bench.lead && reachOf(bench, id);
      return result && !doesReach(bench, result.constraint) ? "Reach again from here" : "Turn by hand from here";
    },
    /** Keys in the place of a constraint of the picked part, by default of the last that acts. */
    keepAsKeys: some((id) => {
      const { name, constraints } = bench.part(bench.lead);
      const constraint = id ?? constraints.filter(({ is_on }) => is_on).at(-1)?.id;
      if (!constraint) return notice(`${name} has no constraint to keep as keys.`);
      return keep("keep_as_keys", { part: bench.lead, constraint });
    }),
    /** The picked part's chain, or the one whose goal is picked, bends on the other side. */
    bendOther: some(() => {
      const result = reachOf(bench);
      if (!result) return notice(NOTHING_REACHES);
      return keep("change_constraint", {
        ...result,
        constraint: { ...result.constraint, bends: /** @type {1 | -1} */ (-result.constraint.bends) },
      });
    }),
  };
}

/**
 * Whether a chain reaches just before this frame; else it is turned by hand.
 * @param {Bench} bench
 */
const doesReach = (bench, { changes = [] }) => (changes.filter(({ frame }) => frame < bench.frame).at(-1)?.to ?? "reach") === "reach";

/**
 * The middles of the two ends of the art, along its longer side.
 * @param {Bench} bench
 */
function ends(bench) {
  const [left, top, right, bottom] = bench.drawingOf(bench.lead)?.bounds ?? [0, 0, 100, 0];
  const [x, y] = [(left + right) / 2, (top + bottom) / 2];
  return right - left > bottom - top
    ? [
        [left, y, 0],
        [right, y, 0],
      ]
    : [
        [x, top, 0],
        [x, bottom, 0],
      ];
}

/**
 * The other picked parts are the goals; a mark that is picked is one too.
 * @param {Bench} bench
 */
function goalsPicked(bench) {
  const parts = bench.picked.slice(0, -1).map((part) => ({ at: "pivot", part }));
  return bench.spot?.mark ? [...parts, { at: "mark", named: bench.spot.mark }] : parts;
}

/**
 * Where a helper is put that is to be a goal, px on the stage.
 * @param {Bench} bench
 */
function placeOf(bench, spot) {
  if (typeof spot === "number") {
    const { pivot, matrix } = bench.poseOf(bench.lead);
    const size = Math.hypot(matrix[0], matrix[1]) || 1;
    return [pivot[0] + (spot * matrix[0]) / size, pivot[1] + (spot * matrix[1]) / size];
  }
  const point = spot === "lowest" ? lowest(bench) : ends(bench)[spot === "first end" ? 0 : 1];
  return bench.onStage(bench.lead, point);
}

/**
 * Helpers for the goals that a kind needs, where nothing moves by them: edits that add them.
 * @param {Bench} bench
 */
function onTheSpot(bench, kind) {
  const { name, camera } = bench.part(bench.lead);
  if (camera) return []; // what it looks at lies before it, and nobody knows how far
  const spots = fieldsOf(kind, "goal").flatMap((field) => field.spots);
  return spots.map((spot, index) => ({
    edit: /** @type {const} */ ("add_helper"),
    id: freshId(),
    place: placeOf(bench, spot),
    name: `${name} goal${spots.length > 1 ? ` ${index + 1}` : ""}`,
    frame: bench.at,
  }));
}

/**
 * The lower middle of the art, or its pivot.
 * @param {Bench} bench
 */
function lowest(bench) {
  const [left, , right, bottom] = bench.drawingOf(bench.lead)?.bounds ?? [];
  return bottom === undefined ? bench.part(bench.lead).pivot : [(left + right) / 2, bottom];
}

/**
 * A constraint of a kind with goals, in the order in which its fields take them.
 * @param {Bench} bench
 */
function made(bench, kind, goals) {
  const result = { id: freshId(), name: nameOf(kind), kind };
  const left = [...goals];
  for (const { name, words, is_needed: isNeeded } of fieldsOf(kind, "goal")) {
    if (words.length > 1) result[name] = left.splice(0);
    else if (isNeeded || left.length) result[name] = left.shift();
  }
  for (const { name, words, is_needed: isNeeded, camera } of fieldsOf(kind, "point")) {
    if (isNeeded && words.length > 1) result[name] = ends(bench);
    if (camera && bench.part(bench.lead).camera) result[name] = camera;
  }
  return result;
}

/**
 * The reach of this id of the picked part, or the first that it has or is the goal of: {part, constraint}.
 * @param {Bench} bench
 * @param {string} [id]
 */
function reachOf(bench, id) {
  const reaches = [bench.lead, ...bench.order].flatMap((part) =>
    bench
      .part(part)
      .constraints.filter((one) => one.kind === "reach")
      .map((constraint) => ({ part, constraint })),
  );
  return reaches.find(({ part, constraint }) => (id ? constraint.id === id : part === bench.lead || constraint.goal.part === bench.lead));
}
