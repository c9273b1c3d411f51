// Levers as all that shows one knows them: the channels of their values, the edit that sets them, the values in words.

import { readable } from "../elements/drawing.js";

export const AXES = ["lever.x", "lever.y"];

/**
 * The edit that sets values of a lever where one is.
 * @param {Bench} bench
 * @returns {Edit[]}
 */
export const leverEdits = (bench, id, values) => [{ edit: "set_values", parts: [id], values, frame: bench.at }];

/**
 * A lever's values as words.
 * @param {Bench} bench
 */
export const leverWords = (bench, id) =>
  bench
    .part(id)
    .lever.axes.map((_, index) => readable(bench.value(id, AXES[index]), 3))
    .join(", ");
