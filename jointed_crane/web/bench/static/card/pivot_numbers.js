// The pivot in numbers: px of the art, shares of its box, and px on the stage.

import { mountField } from "../elements/fields.js";

/**
 * The edits that move the pivots of all picked parts to a point; what has no box has no fractions of it.
 * @param {Bench} bench
 * @returns {Edit[]}
 */
export const movePivot = (bench, point, unit) =>
  bench.picked
    .filter((part) => unit !== "fraction" || bench.drawingOf(part))
    .map((part) => ({ edit: "move_pivot", part, point, unit, keep: bench.keeps, frame: bench.at }));

/** @param {Bench} bench */
export function makePivotNumbers(root, bench) {
  const { previewer } = bench;
  const find = (name) => root.querySelector(`[data-card=${name}]`);
  const draws = [];
  const bounds = () => bench.lead && bench.drawingOf(bench.lead)?.bounds;
  const pivot = () => bench.part(bench.lead).pivot;
  const onStage = () => bench.poseOf(bench.lead).pivot;
  const fraction = (axis) => {
    const box = bounds();
    const size = box[axis + 2] - box[axis];
    return size ? (pivot()[axis] - box[axis]) / size : 0.5;
  };
  for (const axis of [0, 1]) {
    /** One coordinate; the other stays, whatever is still being set of it. */
    const alone = (value) => [null, null].with(axis, value);
    draws.push(
      mountField(
        find(`pivot-px-${"xy"[axis]}`),
        {
          read: () => (bench.lead ? pivot()[axis] : null),
          edits: (value) => movePivot(bench, alone(value), "art"),
          step: 1,
          digits: 1,
        },
        previewer,
      ),
      mountField(
        find(`pivot-part-${"xy"[axis]}`),
        {
          read: () => (bounds() ? fraction(axis) : null),
          why: "It has no picture, so no box to be a fraction of",
          edits: (value) => movePivot(bench, alone(value), "fraction"),
          neutral: 0.5,
          step: 0.05,
          digits: 3,
        },
        previewer,
      ),
      mountField(
        find(`pivot-stage-${"xy"[axis]}`),
        {
          read: () => (bench.lead ? onStage()[axis] : null),
          edits: (value) => movePivot(bench, alone(value), "stage"),
          step: 1,
          digits: 1,
        },
        previewer,
      ),
    );
  }

  return draws;
}
