// The commands of what lies over what, and of what is seen.

/** Rows as in the table of commands. */
export const seeingRows = ({ acts, see }) => [
  ["Painting order", "front", "To the front", [], () => acts.reorder("front"), true],
  ["Painting order", "forward", "Forward", [], () => acts.reorder("forward"), true],
  ["Painting order", "backward", "Backward", [], () => acts.reorder("backward"), true],
  ["Painting order", "back", "To the back", [], () => acts.reorder("back"), true],
  ["Seeing", "hide", "Hide or show", ["h"], acts.hide, true],
  ["Seeing", "lock", "Lock or unlock", ["o"], acts.lock, true],
  ["Seeing", "isolate", "Isolate with what hangs on it", ["x"], acts.isolate, true],
  ["Seeing", "restore", "Show all again", ["X"], acts.restore],
  ["Seeing", "chequer", "Chequered ground", ["y"], acts.chequer],
  ["Seeing", "onion", "Onion skin", ["G"], see.onion],
  ["Seeing", "rest-ghost", "Ghost of the rest pose", [], see.rest],
  ["Seeing", "arcs", "Arcs of picked pivots", ["Z"], see.arcs],
  ["Seeing", "only-stage", "Only the stage, or all panels", ["F"], acts.onlyStage],
  ["Seeing", "fit", "Show the whole stage", ["f"], acts.fit],
];
