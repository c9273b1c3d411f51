// The rows of what changes hands: a block for each stretch that a part is carried, reaches or is turned by hand.

import { onPressed, readable, svg } from "../../elements/drawing.js";
import { changesOf } from "../../state/facts.js";
import { changeWords } from "../../state/goals.js";
import { ROW } from "../axis.js";
import { stretchOf } from "./stretch.js";

/**
 * What draws the row of a constraint; `pressStand` begins to drag a change in time.
 * @param {Bench} bench
 * @param {Axis} axis
 */
export function makeHands(bench, picture, field, axis, { isPickedKey, pressStand }) {
  return function drawHands({ id, constraint }, y) {
    const middle = y + ROW / 2;
    const end = bench.stage.length - 1;
    const changes = changesOf(constraint);
    picture.append(
      svg("path", { d: `M0 ${y + ROW - 0.5}H${axis.width}`, class: "stroke-line-soft" }),
      svg("text", { x: 36, y: middle + 4.5, class: "fill-ink" }, constraint.name.slice(0, 17)),
    );
    const stretches = changes.map((change, index) => [change, change.frame, changes[index + 1]?.frame ?? Math.max(end, change.frame)]);
    if (constraint.kind === "reach" && changes[0]?.frame > 0) stretches.unshift([{ to: "reach" }, 0, changes[0].frame]);
    for (const [change, from, until] of stretches) {
      const look = change.part || change.to === "reach" ? "fill-lagoon-light stroke-lagoon" : "fill-card stroke-line";
      const words = changeWords(bench, change);
      field.append(...stretchOf({ from: axis.xOf(from), to: axis.xOf(until), middle, left: axis.left, look, words }));
    }
    for (const change of changes) field.append(edge(id, constraint, change, middle));
  };

  function edge(id, constraint, change, middle) {
    const { frame } = change;
    const { pickedStand } = bench;
    const own = { part: id, channel: `changes.${constraint.id}`, frame };
    const isOne = pickedStand?.part === id && pickedStand.constraint === constraint.id && pickedStand.frame === frame;
    const isPicked = isOne || isPickedKey(id, own.channel, frame);
    const words = `${changeWords(bench, change)} from frame ${readable(frame)}`;
    const element = svg("rect", {
      x: axis.xOf(frame) - 3,
      y: middle - 11,
      width: 7,
      height: 22,
      rx: 2,
      class: `fill-lagoon ${isPicked ? "stroke-coral" : "stroke-lagoon"} cursor-ew-resize`,
      "stroke-width": isPicked ? 3 : 1,
      tabindex: 0,
      role: "button",
      "aria-label": `${constraint.name}: ${words}`,
      "data-change": frame,
      "data-place": `change ${id} ${constraint.id} ${frame}`,
    });
    element.append(svg("title", {}, `${words}; a drag moves it in time, Delete takes it away`));
    element.keys = [own];
    element.addEventListener("pointerdown", (event) => pressStand(event, own, constraint.id));
    onPressed(element, () => bench.pickStand({ part: id, frame, constraint: constraint.id }));
    return element;
  }
}
