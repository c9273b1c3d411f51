// The row of footholds of a part: a block for each stretch it stands on one point, with a foot where it begins.

import { onPressed, readable, svg } from "../../elements/drawing.js";
import { ROW } from "../axis.js";

/**
 * What draws the row; `pressStand` begins to drag a foothold in time.
 * @param {Bench} bench
 * @param {Axis} axis
 */
export function makeStands(bench, picture, field, axis, { isPickedKey, pressStand }) {
  return function drawStands({ id, name }, y) {
    const { footholds } = bench.part(id);
    const middle = y + ROW / 2;
    picture.append(
      svg("path", { d: `M0 ${y + ROW - 0.5}H${axis.width}`, class: "stroke-line-soft" }),
      svg("text", { x: 36, y: middle + 4.5, class: "fill-ink" }, "Stands on"),
    );
    footholds.forEach((foothold, index) => {
      const [from, to] = [axis.xOf(foothold.frame), axis.xOf(footholds[index + 1]?.frame ?? bench.stage.length - 1)];
      field.append(
        svg("rect", {
          x: from,
          y: middle - 6,
          width: Math.max(to - from - 2, 2),
          height: 12,
          rx: 3,
          class: index % 2 ? "fill-line" : "fill-brass-light",
          "fill-opacity": 0.6,
          "pointer-events": "none",
        }),
      );
    });
    for (const { frame } of footholds) field.append(foot(id, name, frame, middle));
  };

  function foot(id, name, frame, middle) {
    const own = { part: id, channel: "footholds", frame };
    const isOne = bench.pickedStand?.part === id && bench.pickedStand.frame === frame;
    const isPicked = isOne || isPickedKey(id, own.channel, frame);
    const element = svg("path", {
      d: `M${axis.xOf(frame)} ${middle - 9}l7 15h-14z`,
      class: `fill-brass ${isPicked ? "stroke-coral" : "stroke-brass"} cursor-ew-resize`,
      "stroke-width": isPicked ? 3 : 1.6,
      "stroke-linejoin": "round",
      tabindex: 0,
      role: "button",
      "aria-label": `${name} stands on a point from frame ${readable(frame)}`,
      "data-stand": frame,
      "data-place": `stand ${id} ${frame}`,
    });
    element.append(svg("title", {}, `From frame ${readable(frame)}; a drag moves it in time, Delete takes it away`));
    element.keys = [own];
    element.addEventListener("pointerdown", (event) => pressStand(event, own));
    onPressed(element, () => bench.pickStand({ part: id, frame }));
    return element;
  }
}
