// Levers that are shown on the stage: each where its part lies, the same size however the stage is seen.

import { perFrame, svg } from "../../elements/drawing.js";
import { leverPicture } from "../../board/lever_picture.js";

const WIDTH = 92;
const ABOVE = 18; // px between a lever and the pin of its part

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function mountLeverHandles(root, bench, view, drag) {
  const holder = svg("g");
  root.append(holder);
  const made = new Map(); // by part: {element, picture, lever}

  function draw() {
    const seen =
      drag.isPlaying || !bench.stage || !view.isShown
        ? []
        : bench.order.filter((id) => bench.part(id).lever?.on_stage && bench.isSeen(id) && bench.poseOf(id));
    for (const [id, { element }] of made) {
      if (seen.includes(id)) continue;
      element.remove();
      made.delete(id);
    }
    for (const id of seen) {
      const { lever, name } = bench.part(id);
      if (JSON.stringify(made.get(id)?.lever) !== JSON.stringify(lever)) {
        made.get(id)?.element.remove();
        const picture = leverPicture(bench, id, WIDTH);
        const element = svg("g", { "data-stage-lever": id });
        const words = svg("text", {
          x: WIDTH / 2,
          y: -4,
          "text-anchor": "middle",
          class: "fill-ink text-[11.5px] font-semibold",
          "pointer-events": "none",
        });
        element.append(
          words,
          svg("rect", {
            x: -4,
            y: -16,
            width: WIDTH + 8,
            height: picture.height + 20,
            rx: 8,
            class: "fill-card stroke-line",
            "fill-opacity": 0.85,
          }),
          picture.element,
        );
        element.append(words);
        holder.append(element);
        made.set(id, { element, picture, lever, words });
      }
      const { element, picture, words } = made.get(id);
      const [x, y] = view.toScreen(view.pivot(id));
      element.setAttribute("transform", `translate(${x - WIDTH / 2} ${y - picture.height - ABOVE})`);
      words.textContent = name;
      picture.draw();
    }
  }
  bench.on("scene pose picked state playing seen", perFrame(draw));
  view.on(perFrame(draw));
}
