// The commands of parts: names, copies, hierarchy, joints, and what is added.

import { clip, putClip } from "./clip.js";
import { constraintRows } from "./constraint_commands.js";

const LAST_COPIED = "copied-last";

/**
 * Rows as in the table of commands.
 * @param {Bench} bench
 */
export function partRows(bench, { acts, board, sheets, time }) {
  const removal = () => {
    if (bench.spot) return acts.removeSpot();
    return bench.pickedKeys.length || bench.pickedStand || bench.pickedMarker ? time.deleteKeys() : acts.remove();
  };

  // Parts and keys are copied by the same keys, and what was copied last is pasted.
  const copy = () => {
    const areKeys = bench.pickedKeys.length > 0;
    putClip(LAST_COPIED, areKeys ? "keys" : "parts");
    return areKeys ? time.copyKeys() : acts.copyParts();
  };
  const paste = () => (clip(LAST_COPIED) === "keys" ? time.pasteKeys() : acts.pasteParts());

  return [
    ["Parts", "rename", "Rename", ["n"], acts.renamePicked, true],
    ["Parts", "file", "Pick all of its file", [], acts.pickFile, true],
    ["Parts", "next-part", "Next part down the tree", ["Ctrl+ArrowDown"], () => acts.stepPart(1)],
    ["Parts", "previous-part", "Next part up the tree", ["Ctrl+ArrowUp"], () => acts.stepPart(-1)],
    ["Parts", "names", "Name many by a pattern", ["N"], sheets.names, true],
    ["Parts", "duplicate", "Duplicate with children", ["c"], () => acts.duplicate(), true],
    ["Parts", "duplicate-sharing", "Duplicate, sharing the drawings", [], () => acts.duplicate(true)],
    ["Parts", "mirror", "Mirrored copy, left to right", ["i"], () => acts.mirror("upright"), true],
    ["Parts", "mirror-level", "Mirrored copy, top to bottom", [], () => acts.mirror("level")],
    ["Parts", "mirror-stage", "Mirrored copy, left to right of the stage", [], () => acts.mirror("upright", "stage")],
    ["Parts", "fuse", "Fuse into one part", ["k"], acts.fuse, true],
    ["Parts", "split", "Split into its pieces", ["K"], acts.split, true],
    ["Parts", "copy", "Copy parts or picked keys", ["Ctrl+c"], copy],
    ["Parts", "paste", "Paste parts or keys", ["Ctrl+v"], paste],
    ["Parts", "delete", "Delete, keep its children", ["Delete", "Backspace"], removal, true],
    ["Hierarchy", "join", "Join to the part picked last", ["j"], () => acts.joinToLast(), true],
    ["Hierarchy", "join-snapped", "Join and snap to its eyelet", ["J"], () => acts.joinToLast("snapped"), true],
    ["Hierarchy", "detach", "Detach from its parent", ["d"], acts.detach, true],
    ["Hierarchy", "helper", "Add a helper as parent", ["g"], acts.helperAbove, true],
    ["Hierarchy", "helper-each", "Add a helper as parent of each", [], acts.helperAboveEach],
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
    ["Joints", "pivots-round", "Pivot into the round end", [], acts.intoRoundEnd],
    ["Joints", "round-patch", "Add a round patch at the joint", [], acts.addRoundPatch],
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
  ];
}
