// Every command of the bench in one table: its words, its key, where it stands in menus, the sheet and the list of keys.

import { clip, putClip } from "./clip.js";
import { constraintRows } from "./constraint_commands.js";
import { timeRows } from "./time_commands.js";

const LAST_COPIED = "copied-last";

/**
 * Rows: {id, group, words, keys, run, menu}. `keys` are event.key values, with "Ctrl+" or "Ctrl+Shift+" before a letter;
 * `menu` puts a row into the menu of a part.
 * @param {Bench} bench
 */
export function makeCommands(bench, acts, { time, board, play, see, drawing, sheets }) {
  const step = (by) => {
    play.stop();
    bench.seek(bench.frame + by);
  };
  const removal = () => {
    if (bench.spot) return acts.removeSpot();
    return bench.pickedKeys.length || bench.pickedStand || bench.pickedMarker ? time.deleteKeys() : acts.remove();
  };
  const leave = () => {
    if (drawing.cancel()) return null;
    if (play.isPlaying()) return play.stop();
    if (acts.leaveOnlyStage()) return null;
    if (bench.spot) return bench.pickSpot(null);
    if (bench.pickedMarker) return bench.pickMarker(null);
    if (bench.pickedKeys.length || bench.pickedStand) return bench.pickKeys([]);
    bench.pick([]);
  };

  // Parts and keys are copied by the same keys, and what was copied last is pasted.
  const copy = () => {
    const areKeys = bench.pickedKeys.length > 0;
    putClip(LAST_COPIED, areKeys ? "keys" : "parts");
    return areKeys ? time.copyKeys() : acts.copyParts();
  };
  const paste = () => (clip(LAST_COPIED) === "keys" ? time.pasteKeys() : acts.pasteParts());

  const rows = [
    ["Parts", "rename", "Rename", ["n"], acts.renamePicked, true],
    ["Parts", "names", "Name many by a pattern", ["N"], sheets.names, true],
    ["Parts", "duplicate", "Duplicate with children", ["c"], () => acts.duplicate(), true],
    ["Parts", "duplicate-sharing", "Duplicate, sharing the drawings", ["C"], () => acts.duplicate(true)],
    ["Parts", "mirror", "Mirrored copy, upright axis", ["i"], () => acts.mirror("upright"), true],
    ["Parts", "mirror-level", "Mirrored copy, level axis", ["I"], () => acts.mirror("level")],
    ["Parts", "mirror-stage", "Mirrored copy across the stage’s upright", [], () => acts.mirror("upright", "stage")],
    ["Parts", "fuse", "Fuse into one part", ["k"], acts.fuse, true],
    ["Parts", "split", "Split into its pieces", ["K"], acts.split, true],
    ["Parts", "copy", "Copy parts or picked keys", ["Ctrl+c"], copy],
    ["Parts", "paste", "Paste parts or keys", ["Ctrl+v"], paste],
    ["Parts", "delete", "Delete, keep its children", ["Delete", "Backspace"], removal, true],
    ["Hierarchy", "join", "Join to the part picked last", ["j"], () => acts.joinToLast(), true],
    ["Hierarchy", "join-snapped", "Join and snap to its eyelet", ["J"], () => acts.joinToLast("snapped"), true],
    ["Hierarchy", "detach", "Detach from its parent", ["d"], acts.detach, true],
    ["Hierarchy", "helper", "Add a helper above", ["g"], acts.helperAbove, true],
    ["Hierarchy", "helper-each", "Add a helper above each", ["G"], acts.helperAboveEach],
    ["Hierarchy", "helper-mark", "Add a helper at the mark", [], acts.helperAtMark],
    ["Joints", "joint", "Eyelet under the pivot, and seat", ["e"], acts.makeJoints, true],
    ["Joints", "seat", "Seat in its eyelet", ["t"], acts.seat, true],
    ["Joints", "seat-all", "Seat all", ["T"], () => acts.seatAll()],
    ["Joints", "unseat", "Unseat", ["u"], acts.unseat, true],
    ...constraintRows({ acts, board }),
    ["Joints", "pivot-throughout", "Move the pivot, the motion unchanged", [], sheets.pivot],
    ["Joints", "pivots-lower", "Pivots to the lower middle", [], () => acts.pivotsTo([0.5, 1])],
    ["Joints", "pivots-upper", "Pivots to the upper middle", [], () => acts.pivotsTo([0.5, 0])],
    ["Joints", "pivots-centre", "Pivots to the centre", [], () => acts.pivotsTo([0.5, 0.5])],
    ["Joints", "axes-stage", "Line its axes up with the stage", [], () => acts.alignAxes("stage")],
    ["Joints", "axes-edge", "Line its axes up with the nearest edge", [], () => acts.alignAxes("edge")],
    ["Joints", "register-pivot", "Registration to the pivot", [], () => acts.registerAt("pivot")],
    ["Joints", "register-centre", "Registration to the centre of the art", [], () => acts.registerAt("centre")],
    ["Joints", "register-mark", "Registration to the mark", [], () => acts.registerAt("mark")],
    ["Adding", "bring", "Bring artwork in", ["b"], sheets.artwork],
    ["Adding", "update", "Bring a changed file in again", ["B"], sheets.update],
    ["Adding", "rectangle", "Add a rectangle", [], () => acts.addForm("rectangle")],
    ["Adding", "ellipse", "Add an ellipse", [], () => acts.addForm("ellipse")],
    ["Adding", "polygon", "Add a polygon", [], () => acts.addForm("polygon")],
    ["Adding", "mark", "Add a mark at the pivot", [], acts.markHere],
    ["Adding", "next-mark", "Pick the next mark", [], acts.nextMark],
    ["Adding", "text", "Add text", [], acts.addText],
    ["Adding", "track", "Bring in a track (frame, x, y)", [], sheets.track],
    ["Adding", "reference", "Add a reference picture", [], sheets.reference],
    ["Rest and poses", "settle", "Make this pose the rest", [], acts.settle],
    ["Rest and poses", "settle-all", "Make this pose the rest of all parts", [], acts.settleAll],
    ["Rest and poses", "reset", "Reset the picked parts", ["0"], acts.reset],
    ["Rest and poses", "reset-all", "Reset all parts", ["=", ")"], acts.resetAll],
    ["Rest and poses", "pose-copy", "Copy pose", ["p"], acts.copyPose],
    ["Rest and poses", "pose-paste", "Paste pose", ["v"], () => acts.pastePose()],
    ["Rest and poses", "pose-mirror", "Paste pose mirrored", ["V"], () => acts.pastePose(true)],
    ["Rest and poses", "poses", "Poses kept by name", ["P"], () => sheets.poses()],
    ["Rest and poses", "pose-keep", "Keep this pose by name", [], () => sheets.poses(true)],
    ["Painting order", "front", "To the front", ["}"], () => acts.reorder("front"), true],
    ["Painting order", "forward", "Forward", ["]"], () => acts.reorder("forward"), true],
    ["Painting order", "backward", "Backward", ["["], () => acts.reorder("backward"), true],
    ["Painting order", "back", "To the back", ["{"], () => acts.reorder("back"), true],
    ["Seeing", "hide", "Hide or show", ["h"], acts.hide, true],
    ["Seeing", "lock", "Lock or unlock", ["o"], acts.lock, true],
    ["Seeing", "isolate", "Isolate with what hangs on it", ["x"], acts.isolate, true],
    ["Seeing", "restore", "Show all again", ["X"], acts.restore],
    ["Seeing", "chequer", "Chequered ground", ["y"], acts.chequer],
    ["Seeing", "onion", "Onion skin", ["&"], see.onion],
    ["Seeing", "rest-ghost", "Ghost of the rest pose", [], see.rest],
    ["Seeing", "arcs", "Arcs of picked pivots", ["^"], see.arcs],
    ["Seeing", "only-stage", "Only the stage, or all panels", ["F"], acts.onlyStage],
    ["Seeing", "fit", "Show the whole stage", ["f"], acts.fit],
    ["Bench", "rest", "Rest", ["r"], () => bench.setMotion(false)],
    ["Bench", "motion", "Motion", ["m"], () => bench.setMotion(true)],
    ["Bench", "keeps", "Art stays / pivot stays", ["a"], () => bench.setKeeps(bench.keeps === "art" ? "pivot" : "art")],
    ["Bench", "snaps", "Snapping on or off", ["#"], () => bench.setSnapping(!bench.isSnapping)],
    ["Bench", "about", "Turn about the next centre", ["w"], () => sheets.nextAbout()],
    ...timeRows(bench, { time, play, see, sheets, step }),
    ["Everywhere", "undo", "Undo", ["Ctrl+z"], () => bench.undo()],
    ["Everywhere", "redo", "Redo", ["Ctrl+Shift+z", "Ctrl+y"], () => bench.redo()],
    ["Everywhere", "all", "Pick all", ["Ctrl+a"], () => bench.pick(bench.order.filter((id) => !bench.part(id).locked && bench.isSeen(id)))],
    ["Everywhere", "acts", "Find a command", ["/"], sheets.commands],
    ["Everywhere", "check", "Check the rig", ["q"], sheets.check],
    ["Everywhere", "map", "Joint map", ["Q"], sheets.map],
    ["Everywhere", "escape", "Leave a drag, unpick", ["Escape"], leave],
    ["Everywhere", "help", "All shortcuts", ["?"], sheets.help],
  ];
  return rows.map(([group, id, words, keys, run, isInMenu = false]) => ({ group, id, words, keys, run, isInMenu }));
}

const NAMES = { " ": "Space", Delete: "Del", PageUp: "Page up", PageDown: "Page down" };

/** The key as people read it. */
export function keyText(command) {
  const key = command.keys[0];
  if (!key) return "";
  if (key === "+") return key;
  const [letter, ...before] = key.split("+").reverse();
  const isUpper = /^[A-Z]$/.test(letter) && !before.length;
  return [...before.reverse(), ...(isUpper ? ["Shift"] : []), NAMES[letter] ?? (letter.length === 1 ? letter.toUpperCase() : letter)].join(
    "+",
  );
}

/** The name of a key event as the table writes it. */
export function keyOf(event) {
  const letter = event.key;
  if (!(event.ctrlKey || event.metaKey)) return event.shiftKey && letter.startsWith("Page") ? `Shift+${letter}` : letter;
  return `Ctrl+${event.shiftKey ? "Shift+" : ""}${letter.toLowerCase()}`;
}
