// How the time panel is looked at: keys, curves or speeds, how near, and from where. The wheel zooms with Ctrl and pans with Shift.

import { perFrame } from "../elements/drawing.js";
import { following } from "../elements/following.js";

/**
 * The acts of looking; `look.view` says what is seen, `draw` draws it.
 * @param {Shared} shared
 */
export function makeLooking({ root, bench, area, picture, axis, curves, look, draw }) {
  const find = (name) => root.querySelector(`[data-time=${name}]`);
  const drawSoon = perFrame(draw);
  const areCurves = () => look.view !== "keys";

  function setView(wanted) {
    look.view = wanted;
    for (const button of root.querySelectorAll("[data-view]")) button.setAttribute("aria-pressed", button.dataset.view === wanted);
    find("layouts").hidden = !areCurves();
    find("rows").hidden = find("filter").hidden = areCurves();
    area.scrollTop = 0;
    draw();
    return curves.refresh();
  }

  function fitTime() {
    axis.fit();
    curves.scales.fit();
    draw();
  }

  for (const button of root.querySelectorAll("[data-view]")) button.addEventListener("click", () => setView(button.dataset.view));
  find("lanes").addEventListener("click", () => {
    curves.scales.areLanes = !curves.scales.areLanes;
    find("lanes").setAttribute("aria-pressed", String(curves.scales.areLanes));
    fitTime();
  });
  find("height").addEventListener("change", (event) => {
    curves.scales.isTrue = event.target.value === "true";
    fitTime();
  });
  area.addEventListener(
    "wheel",
    (event) => {
      const box = picture.getBoundingClientRect();
      const factor = Math.exp(-event.deltaY * 0.0022);
      if (event.ctrlKey) axis.zoom(factor, event.clientX - box.left);
      else if (event.shiftKey) axis.pan(-(event.deltaY || event.deltaX));
      else if (areCurves()) curves.scales.zoomBy(factor, event.clientY - box.top);
      else return;
      event.preventDefault();
      drawSoon();
    },
    { passive: false },
  );
  picture.addEventListener("pointerdown", (event) => {
    if (event.button !== 1) return;
    event.preventDefault();
    let [x, y] = [event.clientX, event.clientY];
    const pan = (now) => {
      axis.pan(now.clientX - x);
      if (areCurves()) curves.scales.shift += now.clientY - y;
      [x, y] = [now.clientX, now.clientY];
      drawSoon();
    };
    following(event, { holder: picture, move: pan });
  });

  return {
    nextView: () => setView({ keys: "curves", curves: "speeds", speeds: "keys" }[look.view]),
    zoomTime(factor) {
      axis.zoom(factor, axis.xOf(bench.frame));
      draw();
    },
    fitTime,
  };
}
