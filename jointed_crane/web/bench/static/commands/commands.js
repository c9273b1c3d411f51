// Every command of the bench in one table: its words, its key, where it stands in menus, the sheet and the list of keys.

import { lookRows } from "./look_commands.js";
import { partRows } from "./part_commands.js";
import { seeingRows } from "./seeing_commands.js";
import { timeRows } from "./time_commands.js";

/**
 * Rows: {id, group, words, keys, run, menu}. `keys` are event.key values, with "Ctrl+" or "Ctrl+Shift+" before a letter;
 * `menu` puts a row into the menu of a part.
 * @param {Bench} bench
 */
export function makeCommands(bench, acts, { time, board, play, see, drawing, looks, sheets }) {
  const step = (by) => {
    play.stop();
    bench.seek(bench.frame + by);
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

  const rows = [
    ...partRows(bench, { acts, board, sheets, time }),
    ["Rest and poses", "settle", "Settle here", [], acts.settle],
    ["Rest and poses", "settle-all", "Settle all here", [], acts.settleAll],
    ["Rest and poses", "reset", "Reset the picked parts", ["0"], acts.reset],
    ["Rest and poses", "reset-all", "Reset all parts", [], acts.resetAll],
    ["Rest and poses", "pose-copy", "Take this pose", ["p"], acts.copyPose],
    ["Rest and poses", "pose-paste", "Put the pose on", ["v"], () => acts.pastePose()],
    ["Rest and poses", "pose-mirror", "Put it on mirrored", ["V"], () => acts.pastePose(true)],
    ["Rest and poses", "poses", "Poses kept by name", ["P"], () => sheets.poses()],
    ["Rest and poses", "pose-keep", "Keep this pose by name", [], () => sheets.poses(true)],
    ...seeingRows({ acts, see }),
    ...lookRows({ looks, acts, sheets }),
    ["Bench", "rest", "Rest", ["r"], () => bench.setMotion(false)],
    ["Bench", "motion", "Motion", ["m"], () => bench.setMotion(true)],
    ["Bench", "keeps", "Art stays / pivot stays", ["a"], () => bench.setKeeps(bench.keeps === "art" ? "pivot" : "art")],
    ["Bench", "snaps", "Snapping on or off", ["U"], () => bench.setSnapping(!bench.isSnapping)],
    ["Bench", "about", "Turn about the next centre", ["w"], () => sheets.nextAbout()],
    ...timeRows(bench, { time, play, see, sheets, step }),
    ["Everywhere", "stage", "Stage and time: size, ground, rate, length", [], sheets.stage],
    ["Everywhere", "undo", "Undo", ["Ctrl+z"], () => bench.undo()],
    ["Everywhere", "redo", "Redo", ["Ctrl+Shift+z", "Ctrl+y"], () => bench.redo()],
    ["Everywhere", "all", "Pick all", ["Ctrl+a"], () => bench.pick(bench.order.filter((id) => !bench.part(id).locked && bench.isSeen(id)))],
    ["Everywhere", "acts", "Find a command", ["/"], sheets.commands],
    ["Everywhere", "send-out", "Send out: all ways and choices", [], sheets.sendOut],
    ["Everywhere", "copy-still", "Copy a picture of this frame", [], sheets.copyStill],
    ["Everywhere", "check", "Check the rig", ["q"], sheets.check],
    ["Everywhere", "map", "Joint map", ["Q"], sheets.map],
    ["Everywhere", "escape", "Leave a drag, unpick", ["Escape"], leave],
    ["Everywhere", "help", "All shortcuts", ["?"], sheets.help],
  ];
  refuseTwoOnOneKey(rows);
  return rows.map(([group, id, words, keys, run, isInMenu = false]) => ({
    group,
    id,
    // What an act does may depend on what is picked.
    get words() {
      return typeof words === "function" ? words() : words;
    },
    keys,
    run,
    isInMenu,
  }));
}

/** A key that two commands had would run the one that stands last, and nobody would know why. */
function refuseTwoOnOneKey(rows) {
  const owners = new Map();
  for (const [, id, , keys] of rows)
    for (const key of keys) {
      if (owners.has(key)) throw new Error(`${owners.get(key)} and ${id} are both on ${key}.`);
      owners.set(key, id);
    }
}

const NAMES = {
  " ": "Space",
  ArrowLeft: "Left",
  ArrowRight: "Right",
  ArrowUp: "Up",
  ArrowDown: "Down",
  PageUp: "Page up",
  PageDown: "Page down",
}; // prettier-ignore

/** The key as people read it. */
export function keyText(command) {
  const key = command.keys[0];
  if (!key || key === "+") return key ?? "";
  const [letter, ...before] = key.split("+").reverse();
  const isUpper = /^[A-Z]$/.test(letter) && !before.length;
  return [...before.reverse(), ...(isUpper ? ["Shift"] : []), NAMES[letter] ?? (letter.length === 1 ? letter.toUpperCase() : letter)].join(
    "+",
  );
}

/** The name of a key event as the table writes it. */
export function keyOf(event) {
  const { key } = event;
  if (!(event.ctrlKey || event.metaKey)) return event.shiftKey && key.length > 1 ? `Shift+${key}` : key;
  return `Ctrl+${event.shiftKey ? "Shift+" : ""}${key.length === 1 ? key.toLowerCase() : key}`;
}
