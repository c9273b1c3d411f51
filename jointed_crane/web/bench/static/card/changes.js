// What takes hold of the picked part from a frame on, on the card: who carries it, and whether it reaches or is turned.

import { readable } from "../elements/drawing.js";
import { changesOf } from "../state/facts.js";
import { changeWords } from "../state/goals.js";
import { smallButton } from "../elements/fields.js";

/**
 * What gives the elements for one constraint.
 * @param {Bench} bench
 */
export function makeChanges(bench, acts) {
  return function changes(constraint) {
    const { id, name, kind } = constraint;
    const result = changesOf(constraint).map((change) => {
      const words = document.createElement("span");
      words.className = "flex items-center gap-1 whitespace-nowrap";
      const at = readable(change.frame);
      const button = smallButton("×", `${name} goes on past frame ${at}`, () =>
        bench.keep([{ edit: "drop_change", part: bench.lead, constraint: id, frame: change.frame }]),
      );
      words.append(`${changeWords(bench, change)} from ${at}`, button);
      return words;
    });
    if (kind === "carry")
      result.push(smallButton("Put down here", `${bench.part(bench.lead).name} is put down at this frame`, acts.putDown));
    if (kind === "reach")
      result.push(
        smallButton(acts.matchWords(id), `${acts.matchWords(id)}: ${name} goes on from the same pose`, () => acts.matchReach(id)),
      );
    return result;
  };
}
