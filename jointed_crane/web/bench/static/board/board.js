// The board beside the stage: all levers of the scene, to be set, keyed, taught and linked.

import { notice } from "../../notices.js";
import { heldDown, perFrame } from "../elements/drawing.js";
import { freshId } from "../state/fresh_id.js";
import { makeLeverRow } from "./lever_row.js";

const WIDTH = 196; // px of a lever's picture

/**
 * Mounts the board; `toggle` is the button that shows it. Gives the commands their acts.
 * @param {Bench} bench
 */
export function mountBoard(board, toggle, bench) {
  const list = board.querySelector("[data-board=list]");
  const template = board.querySelector("template");
  const state = { open: null, isAsked: null }; // whether somebody showed or hid it; else it is there where levers are
  let draws = [];
  let drawn = "";

  const isHeld = heldDown(board, () => draw());

  const levers = () => bench.order.filter((id) => bench.part(id)?.kind === "lever");

  function draw() {
    if (!bench.stage) return;
    const result = levers();
    const isSeen = state.isAsked ?? result.length > 0;
    board.hidden = !isSeen;
    toggle.setAttribute("aria-pressed", isSeen);
    board.querySelector("[data-board=empty]").hidden = result.length > 0;
    const linked = bench.order.map((id) => bench.part(id).links);
    const now = JSON.stringify([
      result.map((id) => [bench.part(id).name, bench.part(id).lever]),
      state.open,
      bench.picked,
      bench.teaching,
      bench.version,
      linked,
    ]);
    if (now !== drawn && !isHeld() && !list.contains(document.activeElement?.closest("input"))) {
      drawn = now;
      draws = [];
      const row = makeLeverRow(bench, template, draws, state, draw);
      const focused = document.activeElement?.dataset?.lever;
      list.replaceChildren(...result.map((id) => row(id, WIDTH)));
      if (focused) list.querySelector(`[data-lever="${focused}"]`)?.focus({ preventScroll: true });
    }
    for (const field of draws) field();
  }

  async function add(axes) {
    const id = freshId();
    const name = axes > 1 ? "Pad" : "Lever";
    const parent = bench.lead && bench.part(bench.lead).kind !== "lever" ? bench.lead : null;
    const at = parent ? bench.poseOf(parent).pivot : [bench.stage.width * 0.1, bench.stage.height * 0.1 * (levers().length + 1)];
    const lever = { axes: Array.from({ length: axes }, () => ({})) };
    state.isAsked = true;
    const picked = bench.picked.filter((other) => bench.part(other).kind !== "lever");
    if (await bench.keep([{ edit: "add_lever", id, name, lever, parent, at: at.slice(0, 2), frame: bench.at }])) {
      state.open = id;
      bench.pick([...picked, id]);
    }
  }

  const acts = {
    addLever: () => add(1),
    addPad: () => add(2),
    toggleBoard() {
      state.isAsked = board.hidden;
      draw();
    },
    /** Begin to teach the picked lever, or the first; end it where it is under way. */
    teach() {
      if (bench.teaching) return bench.teach(null);
      const lever = levers().includes(bench.lead) ? bench.lead : levers()[0];
      if (!lever) return notice("There is no lever yet. Add one first.");
      return bench.teach({ lever, channel: "lever.x" });
    },
  };
  toggle.addEventListener("click", acts.toggleBoard);
  board.querySelector("[data-board=add]").addEventListener("click", acts.addLever);
  board.querySelector("[data-board=add-pad]").addEventListener("click", acts.addPad);
  bench.on("scene picked pose state pending", perFrame(draw));
  board.addEventListener("focusout", () => requestAnimationFrame(draw));
  return acts;
}
