// Panels remember their sizes: bars between them are dragged or moved by arrow keys.

import { clamp } from "./drawing.js";
import { following } from "./following.js";

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
      localStorage.setItem(`panel-${name}`, `${size}`);
    };
    const along = (event) => (isAcross ? event.clientX : event.clientY);
    bar.addEventListener("pointerdown", (event) => {
      const from = { at: along(event), size };
      following(event, {
        holder: bar,
        move: (now) => apply(from.size + sign * (along(now) - from.at)),
        done: (_, isKept) => isKept || apply(from.size),
      });
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
