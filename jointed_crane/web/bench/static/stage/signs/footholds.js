// Where picked parts stand in Motion: a brass foot on a short line of ground at each foothold, the one that holds filled.

import { readable, svg } from "../../elements/drawing.js";

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeFootholds(bench, view, holder) {
  return function draw(id) {
    const { name, footholds } = bench.part(id);
    if (!bench.isMotion || !footholds.length) return;
    const holds = footholds.filter(({ frame }) => frame <= bench.frame).at(-1);
    for (const foothold of footholds) {
      const [x, y] = view.screen(id, foothold.point);
      const group = svg("g", {
        transform: `translate(${x} ${y})`,
        "pointer-events": "none",
        class: foothold === holds ? "" : "opacity-60",
        "data-foothold": foothold.frame,
      });
      group.append(
        svg("path", {
          d: "M0 0L-6 10H6Z",
          class: `${foothold === holds ? "fill-brass" : "fill-card"} stroke-brass`,
          "stroke-width": 1.6,
          "stroke-linejoin": "round",
        }),
        svg("path", { d: "M-12 12.5H12", class: "stroke-brass", "stroke-width": 2.2, "stroke-linecap": "round" }),
        svg("title", {}, `${name} stands here from frame ${readable(foothold.frame)}`),
      );
      holder.append(group);
    }
  };
}
