// The ruler over the rows of keys, and the mark of the frame that is now.

import { readable, svg } from "../drawing.js";
import { RULER } from "./axis.js";

export function makeRuler(root, bench, picture, axis) {
  const find = (name) => root.querySelector(`[data-time=${name}]`);
  let ruler = null;
  let rulerOf = "";
  let now = null;

  /** The ruler, kept from draw to draw while nothing that it shows has changed. */
  function drawRuler() {
    const { length } = bench.stage;
    const wanted = [length, axis.width, bench.fps].join();
    if (wanted === rulerOf) return void picture.append(ruler);
    rulerOf = wanted;
    ruler = svg("g");
    const second = bench.fps;
    const enough = (frames) => frames * axis.scale >= 74;
    const steps = [1, 2, ...[0.25, 0.5, 1, 2, 5, 10, 30, 60].map((seconds) => Math.max(Math.round(seconds * second), 1))];
    const label = steps.find(enough) ?? second * 120;
    const tick = [1, 2, 4, 6, 12, 24, 48].find((frames) => frames * axis.scale >= 7) ?? 96;
    const ticks = (every, height) => {
      let path = "";
      for (let frame = 0; frame < length; frame += every) path += `M${axis.xOf(Math.round(frame))} ${RULER - height}V${RULER}`;
      return path;
    };
    ruler.append(
      svg("rect", { width: axis.width, height: RULER, class: "fill-tray", "data-ruler": "" }),
      svg("path", { d: ticks(tick, 6), class: "stroke-line", "pointer-events": "none" }),
      svg("path", { d: ticks(label, 11), class: "stroke-mute", "pointer-events": "none" }),
    );
    for (let frame = 0; frame < length; frame += label) {
      const at = Math.round(frame);
      const words = `${at} · ${readable(at / second, 2)} s`;
      if (axis.xOf(at) + 5 + words.length * 6 < axis.width) ruler.append(svg("text", { x: axis.xOf(at) + 5, y: 14, class: "fill-mute text-[11.5px]", "pointer-events": "none" }, words));
    }
    ruler.append(svg("path", { d: `M0 ${RULER - 0.5}H${axis.width}`, class: "stroke-line" }));
    picture.append(ruler);
  }

  function drawNow(height) {
    now = svg("g", { "pointer-events": "none" });
    now.append(svg("path", { d: `M0 ${RULER - 4}V${height}`, class: "stroke-coral", "stroke-width": 1.6 }), svg("rect", { x: -17, y: 2, width: 34, height: 19, rx: 4, class: "fill-coral-ink" }), svg("text", { y: 15.5, "text-anchor": "middle", class: "fill-on-lagoon text-[12px] font-bold" }));
    picture.append(now);
    moveNow(bench.frame);
  }

  function moveNow(frame) {
    if (!now) return;
    now.setAttribute("transform", `translate(${axis.xOf(frame)} 0)`);
    now.setAttribute("opacity", bench.isMotion ? 1 : 0.35);
    now.lastChild.textContent = readable(frame, 0);
    find("frame").textContent = `f ${readable(frame, 0)}`;
    find("seconds").textContent = `${(frame / bench.fps).toFixed(2)} s of ${(bench.stage.length / bench.fps).toFixed(2)} s · ${readable(bench.fps, 3)} fps`;
  }

  return { drawRuler, drawNow, moveNow };
}
