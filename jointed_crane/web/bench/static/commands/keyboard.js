// Keys on the bench: digits pick tools, arrows do what the tool does, the rest stands in the table of commands.

import { keyOf } from "./commands.js";

/** Whether a menu or popover is open, which Escape closes and does nothing else. */
const isMenuOpen = () =>
  document.querySelector(":popover-open") || [...document.querySelectorAll(".menu[x-show]")].some((one) => one.checkVisibility());

export const TOOLS = ["move", "turn", "scale", "pivot", "eyelet", "helper", "mark", "draw", "stand"];

/**
 * The point that the last picked part stands on, a step further, from this frame on.
 * @param {Bench} bench
 */
function standing(bench, x, y) {
  const { pivot, footholds } = bench.part(bench.lead);
  const [px, py] = footholds.findLast(({ frame }) => frame <= bench.frame)?.point ?? pivot;
  return { edit: "set_foothold", part: bench.lead, point: [px + x, py + y], unit: "art" };
}

/**
 * @param {Bench} bench
 * @param {import("./keys.js").Keys} keys
 */
export function mountKeyboard(bench, keys, menu) {
  const frame = () => bench.at;

  /** Arrow keys: move, turn, scale, or place the pivot, the eyelet or the mark. */
  function nudge(x, y, event) {
    const size = event.altKey ? 0.1 : event.shiftKey ? 10 : 1;
    if (bench.spot) return nudgeSpot(x * size, y * size);
    if (!bench.picked.length) return;
    const parts = bench.picked;
    const about = bench.isTogether ? bench.about : null;
    const degrees = (x - y) * (event.shiftKey ? 15 : size);
    const factors = [1 + (x * size) / 100, 1 - (y * size) / 100];
    const edits = {
      move: () => ({ edit: "lead", parts, by: [x * size, y * size] }),
      turn: () => (about ? { edit: "turn_about", parts, degrees, about } : { edit: "turn_by", parts, degrees }),
      scale: () =>
        about ? { edit: "scale_about", parts, factor: 1 + ((x - y) * size) / 100, about } : { edit: "scale_by", parts, factors },
      pivot: () => {
        const [px, py] = bench.part(bench.lead).pivot;
        return { edit: "move_pivot", part: bench.lead, point: [px + x * size, py + y * size], unit: "art", keep: bench.keeps };
      },
    };
    if (bench.tool === "stand" && bench.isMotion) edits.stand = () => standing(bench, x * size, y * size);
    bench.keep([{ ...(edits[bench.tool] ?? edits.move)(), frame: frame() }]);
  }

  function nudgeSpot(x, y) {
    const { spot, spotThing: thing } = bench;
    if (spot.mark) return bench.keep([{ edit: "set_mark", mark: spot.mark, place: [thing.place[0] + x, thing.place[1] + y] }]);
    const { part, eyelet } = spot;
    return bench.keep([
      { edit: "move_eyelet", part, eyelet, point: [thing.point[0] + x, thing.point[1] + y], unit: "art", frame: frame() },
    ]);
  }

  const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

  addEventListener("keydown", (event) => {
    if (event.target.closest("dialog, input, select, textarea")) return;
    if (event.target.closest("button") && (event.key === " " || event.key === "Enter")) return;
    if (event.key === "Escape" && (menu.closeMenu() || isMenuOpen())) return;
    const isPlain = !event.ctrlKey && !event.metaKey;
    if (arrows[event.key] && isPlain) {
      event.preventDefault();
      return nudge(...arrows[event.key], event);
    }
    if (/^[1-9]$/.test(event.key) && isPlain) return bench.setTool(TOOLS[Number(event.key) - 1]);
    const command = keys.byKey.get(keyOf(event));
    if (!command) return;
    event.preventDefault();
    command.run();
  });
}
