// The row of cameras: a block for each stretch that one is on; its beginning is dragged in time.

import { follow } from "../../elements/following.js";
import { onPressed, readable, svg } from "../../elements/drawing.js";
import { ROW } from "../axis.js";
import { stretchOf } from "./stretch.js";

const OWN = "Stage’s own view";

/**
 * What draws the row.
 * @param {Shared} shared
 */
export function makeCuts({ bench, play, picture, field, axis }) {
  const nameOf = ({ camera }) => (camera ? (bench.part(camera)?.name ?? "") : OWN);

  return function draw(y) {
    const middle = y + ROW / 2;
    picture.append(
      svg("path", { d: `M0 ${y + ROW - 0.5}H${axis.width}`, class: "stroke-line-soft" }),
      svg("text", { x: 14, y: middle + 4.5, class: "fill-ink font-bold" }, "Cameras"),
    );
    const { cuts } = bench;
    const end = Math.max(bench.stage.length - 1, 0);
    for (const [index, cut] of cuts.entries()) {
      const from = index ? cut.frame : Math.min(cut.frame, 0);
      const to = axis.xOf(cuts[index + 1]?.frame ?? Math.max(end, cut.frame));
      const look = cut.camera ? "fill-brass-light stroke-brass" : "fill-card stroke-line";
      field.append(...stretchOf({ from: axis.xOf(from), to, middle, left: axis.left, look, words: nameOf(cut) }));
    }
    for (const cut of cuts) field.append(edge({ bench, play, picture, axis }, cut, nameOf(cut), middle));
  };
}

/**
 * The beginning of a block, which is dragged, or moved and deleted by keys.
 * @param {Shared} shared
 */
function edge({ bench, play, picture, axis }, cut, name, middle) {
  const words = `${name} from frame ${readable(cut.frame)}`;
  const element = svg("rect", {
    x: axis.xOf(cut.frame) - 3,
    y: middle - 11,
    width: 7,
    height: 22,
    rx: 2,
    class: "fill-brass stroke-brass cursor-ew-resize",
    tabindex: 0,
    role: "button",
    "aria-label": `Cut: ${words}`,
    "data-cut": cut.frame,
    "data-place": `cut ${cut.frame}`,
  });
  element.append(svg("title", {}, `${words}; a drag moves the cut in time, Delete takes it away`));
  element.addEventListener("pointerdown", (event) => {
    if (event.button !== 0) return;
    play.stop();
    if (cut.camera) bench.pick([cut.camera]);
    follow(event, {
      holder: picture,
      previewer: bench.previewer,
      edits(dx, _, now) {
        const by = bench.dragged(dx / axis.scale, now);
        return by ? [{ edit: "move_cut", frame: cut.frame, to: Math.max(cut.frame + by, 0) }] : null;
      },
    });
  });
  element.addEventListener("keydown", (event) => {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    const isGone = event.key === "Delete" || event.key === "Backspace";
    if (!step && !isGone) return;
    event.preventDefault();
    event.stopPropagation();
    const moved = { edit: "move_cut", frame: cut.frame, to: Math.max(cut.frame + step, 0) };
    bench.keep([/** @type {Edit} */ (isGone ? { edit: "remove_cut", frame: cut.frame } : moved)]);
  });
  onPressed(element, () => cut.camera && bench.pick([cut.camera]));
  return element;
}
