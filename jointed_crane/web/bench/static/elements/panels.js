// Panels remember their sizes: bars between them are dragged or moved by arrow keys.

import { clamp } from "./drawing.js";

export function mountPanels(root) {
  for (const bar of root.querySelectorAll("[data-divides]")) {
    const name = bar.dataset.divides;
    const isAcross = bar.getAttribute("aria-orientation") === "vertical";
    const low = Number(bar.dataset.low);
    const high = () => Number(bar.dataset.high) * (isAcross ? innerWidth : innerHeight);
    const sign = Number(bar.dataset.sign);
    let size = Number(localStorage.getItem(`panel-${name}`)) || Number(bar.dataset.size);

    const apply = (wanted) => {
      size = clamp(wanted, low, Math.max(low, high()));
      root.style.setProperty(`--panel-${name}`, `${size}px`);
      bar.setAttribute("aria-valuenow", Math.round(size));
      localStorage.setItem(`panel-${name}`, size);
    };
    let from = null;
    bar.addEventListener("pointerdown", (event) => {
      bar.setPointerCapture(event.pointerId);
      from = { at: isAcross ? event.clientX : event.clientY, size };
    });
    bar.addEventListener("pointermove", (event) => {
      if (from) apply(from.size + sign * ((isAcross ? event.clientX : event.clientY) - from.at));
    });
    bar.addEventListener("lostpointercapture", () => {
      from = null;
    });
    bar.addEventListener("dblclick", () => apply(Number(bar.dataset.size)));
    bar.addEventListener("keydown", (event) => {
      const step = { ArrowLeft: -12, ArrowUp: -12, ArrowRight: 12, ArrowDown: 12 }[event.key];
      if (!step) return;
      event.preventDefault();
      event.stopPropagation();
      apply(size + sign * step);
    });
    apply(size);
    addEventListener("resize", () => apply(size));
  }
}
