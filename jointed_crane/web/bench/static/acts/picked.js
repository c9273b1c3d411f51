// What acts on picked parts share.

import { notice } from "../../notices.js";

export const NO_MARK = "There is no mark on the stage. Place one with the Mark tool first.";

/** @param {Bench} bench */
export function makePicked(bench) {
  const frame = () => bench.at;
  const picked = () => bench.picked;
  /** @type {Keep} */
  const keep = (edit, fields = {}) => bench.keep([/** @type {any} */ ({ edit, ...fields })]);

  /** Runs an act only where parts are picked; says so where none is. */
  const some =
    (act) =>
    (...given) => {
      if (bench.picked.length) return act(...given);
      notice("No part is picked. Pick one on the stage or in the joint tree first.");
    };

  /** Picks the copies that an answer brought; their ids begin with a prefix. */
  const copied = (prefix) => (answer) => answer && bench.pick(answer.changed.map((part) => part.id).filter((id) => id.startsWith(prefix)));

  /**
   * The mark that is picked, else the one placed last.
   * @returns {Spotted | undefined}
   */
  const someMark = () => (bench.spot?.mark ? bench.spotThing : bench.stage.marks.at(-1));

  function withDescendants(ids) {
    const result = new Set(ids);
    for (const id of result) for (const child of bench.children(id)) result.add(child);
    return bench.order.filter((id) => result.has(id));
  }

  return { bench, frame, picked, keep, some, copied, someMark, withDescendants };
}
