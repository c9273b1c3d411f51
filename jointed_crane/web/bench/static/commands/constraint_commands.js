// The commands of constraints and levers, as rows of the table of commands.

import { facts } from "../state/facts.js";

/** The kinds that one command gives a part, with what it says. */
function kindsByCommand() {
  const words = Object.entries(facts.constraints).map(([kind, { act }]) => [kind, act]);
  return words.filter(([, act]) => act);
}

export function constraintRows({ acts, board }) {
  return [
    ["Constraints", "reach", "Have it reach", ["O"], acts.reach, true],
    ["Constraints", "bend-other", "Bend the other way", [], acts.bendOther, true],
    ...kindsByCommand().map(([kind, words]) => ["Constraints", kind.replaceAll(" ", "-"), words, [], () => acts.constrain(kind)]),
    ["Constraints", "carry", "Carried from here by the part picked before", [], acts.carry],
    ["Constraints", "put-down", "Put down from here", [], acts.putDown],
    ["Constraints", "match", acts.matchWords, [], () => acts.matchReach()],
    ["Constraints", "keep-as-keys", "Keep the constraint as keys", [], () => acts.keepAsKeys()],
    ["Levers", "lever", "Add a lever", [], board.addLever],
    ["Levers", "pad", "Add a pad of two values", [], board.addPad],
    ["Levers", "teach", "Teach the lever, or stop", [], board.teach],
    ["Levers", "board", "The board of levers, shown or hidden", [], board.toggleBoard],
  ];
}
