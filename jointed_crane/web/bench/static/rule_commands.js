// The commands of constraints and levers, as rows of the table of commands.

export function ruleRows({ acts, board }) {
  return [
    ["Constraints", "reach", "Reach with it", ["O"], acts.reach, true],
    ["Constraints", "bend-other", "Bend the other way", ["!"], acts.bendOther, true],
    ["Constraints", "point-at", "Point at the part picked before", [], () => acts.constrain("point at")],
    ["Constraints", "follow", "Follow the part picked before", [], () => acts.constrain("follow")],
    ["Constraints", "between", "Lie between the two picked before", [], () => acts.constrain("between")],
    ["Constraints", "span", "Span between the two picked before", [], () => acts.constrain("span")],
    ["Constraints", "stay-above", "Stay above the part or mark picked before", [], () => acts.constrain("stay above")],
    ["Constraints", "along", "Run along the part picked before", [], () => acts.constrain("along a path")],
    ["Constraints", "carry", "Carried from here by the part picked before", [], acts.carry],
    ["Constraints", "put-down", "Put down from here", [], acts.putDown],
    ["Constraints", "match", "Reach, or turn by hand, from here", ["%"], () => acts.matchReach()],
    ["Constraints", "keep-as-keys", "Keep the constraint as keys", [], () => acts.keepAsKeys()],
    ["Levers", "lever", "Add a lever", ["$"], board.addLever],
    ["Levers", "pad", "Add a pad of two values", [], board.addPad],
    ["Levers", "teach", "Teach the lever, or stop", ["_"], board.teach],
    ["Levers", "board", "The board of levers, shown or hidden", [], board.toggleBoard],
  ];
}
