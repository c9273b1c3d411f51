// The commands of looking at a scene that has depth.

/** Rows as in the table of commands. */
export const lookRows = (looks) => [
  ["Depth", "depth", "Depth on or off", [], looks.depth],
  ["Depth", "look-back", "Back to the view before", ["Shift+End"], looks.back],
  ["Depth", "look-stage", "The stage’s own view", ["Shift+Home"], looks.look("stage")],
  ["Depth", "look-front", "View from the front", [], looks.look("front")],
  ["Depth", "look-back-side", "View from the back", [], looks.look("back")],
  ["Depth", "look-top", "View from the top", [], looks.look("top")],
  ["Depth", "look-below", "View from below", [], looks.look("below")],
  ["Depth", "look-left", "View from the left", [], looks.look("left")],
  ["Depth", "look-right", "View from the right", [], looks.look("right")],
  ["Depth", "look-free", "Free view", [], looks.look("free")],
  ["Depth", "one-view", "One view", [], looks.count(1)],
  ["Depth", "two-views", "Two views", [], looks.count(2)],
  ["Depth", "four-views", "Four views", [], looks.count(4)],
  ["Depth", "next-view", "Act in the next view", [], looks.next],
  ["Depth", "frame-picked", "Frame what is picked", [], looks.frame],
];
