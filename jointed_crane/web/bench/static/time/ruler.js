// The ruler over the rows of keys, and the mark of the frame that is now.

import { readable, svg } from "../elements/drawing.js";
import { RULER } from "./axis.js";

/**
 * @param {Bench} bench
 * @param {Axis} axis
 */
export function makeRuler(root, bench, field, axis) {
  const find = (name) => root.querySelector(`[data-time=${name}]`);
  let ruler = null;
  let rulerOf = "";
  let now = null;

  /** The ruler, kept from draw to draw while nothing that it shows has changed. */
  function drawRuler() {
    const { length } = bench.stage;
    const wanted = [length, axis.width, bench.fps, axis.begin, axis.span].join();
    if (wanted === rulerOf) return void field.append(ruler);
    rulerOf = wanted;
    ruler = svg("g");
    const second = bench.fps;
    const last = Math.min(axis.begin + axis.span, length - 1) + 1e-6;
    const enough = (frames) => frames * axis.scale >= 74;
    const steps = [1, 2, ...[0.25, 0.5, 1, 2, 5, 10, 30, 60].map((seconds) => Math.max(Math.round(seconds * second), 1))];
    const label = steps.find(enough) ?? second * 120;
    const tick = [1, 2, 4, 6, 12, 24, 48].find((frames) => frames * axis.scale >= 7) ?? 96;
    const ticks = (every, height) => {
      let path = "";
      for (let frame = Math.floor(axis.begin / every) * every; frame <= last; frame += every)
        path += `M${axis.xOf(Math.round(frame))} ${RULER - height}V${RULER}`;
      return path;
    };
    ruler.append(
      svg("rect", { width: axis.width, height: RULER, class: "fill-tray", "data-ruler": "" }),
      svg("path", { d: ticks(tick, 6), class: "stroke-line", "pointer-events": "none" }),
      svg("path", { d: ticks(label, 11), class: "stroke-mute", "pointer-events": "none" }),
    );
    for (let frame = Math.floor(axis.begin / label) * label; frame <= last; frame += label) {
      const at = Math.round(frame);
      const words = `${at} · ${readable(at / second, 2)} s`;
      if (axis.xOf(at) + 5 + words.length * 6 < axis.width)
        ruler.append(svg("text", { x: axis.xOf(at) + 5, y: 14, class: "fill-mute text-[11.5px]", "pointer-events": "none" }, words));
    }
    ruler.append(svg("path", { d: `M0 ${RULER - 0.5}H${axis.width}`, class: "stroke-line" }));
    if (!axis.isWhole) ruler.append(overview());
    field.append(ruler);
  }

  /** Which stretch of the whole is seen, as a bar at the foot of the ruler. */
  function overview() {
    const [from, room, whole] = [axis.left, axis.width - axis.left - 26, Math.max(bench.stage.length - 1, 1)];
    return svg("rect", {
      x: from + (axis.begin / whole) * room,
      y: RULER - 3,
      width: Math.max((axis.span / whole) * room, 8),
      height: 3,
      rx: 1.5,
      class: "fill-lagoon",
      "pointer-events": "none",
    });
  }

  function drawNow(height) {
    now = svg("g", { "pointer-events": "none" });
    now.append(
      svg("path", { d: `M0 ${RULER - 4}V${height}`, class: "stroke-coral", "stroke-width": 1.6 }),
      svg("rect", { x: -17, y: 2, width: 34, height: 19, rx: 4, class: "fill-coral-ink" }),
      svg("text", { y: 15.5, "text-anchor": "middle", class: "fill-on-lagoon text-[12px] font-bold" }),
    );
    field.append(now);
    moveNow(bench.frame);
  }

  function moveNow(frame) {
    if (!now) return;
    now.setAttribute("transform", `translate(${axis.xOf(frame)} 0)`);
    now.setAttribute("opacity", bench.isMotion ? 1 : 0.35);
    now.lastChild.textContent = readable(frame, 0);
    find("frame").textContent = `f ${readable(frame, 0)}`;
    find("seconds").textContent = `${(frame / bench.fps).toFixed(2)} s`;
    find("whole").textContent = `of ${(bench.stage.length / bench.fps).toFixed(2)} s · ${readable(bench.fps, 3)} fps`;
  }

  return { drawRuler, drawNow, moveNow };
}
