// Eyelets and marks on the stage: rings and hatched tiles with their names.

import { perFrame, svg } from "../../elements/drawing.js";
import { placedLabels } from "./labels.js";

/**
 * Mounts the spots between the figures and the handles; they are drawn in screen px.
 * @param {Bench} bench
 * @param {View} view
 */
export function mountSpots(root, bench, view, drag) {
  const labels = svg("g", { "pointer-events": "none", "data-bench": "labels" });
  const holder = svg("g");
  const hatch = svg("pattern", { id: "hatch", width: 4, height: 4, patternUnits: "userSpaceOnUse", patternTransform: "rotate(45)" });
  hatch.append(svg("path", { d: "M0 0H4M0 0V4", class: "stroke-lagoon", "stroke-width": 1.4, fill: "none" }));
  const definitions = svg("defs");
  definitions.append(hatch);
  root.append(definitions, labels, holder);

  /**
   * Eyelets that are seen: all with the Eyelet tool; else, in Rest, those of the picked parts and the ones
   * they are seated in, so that a joint's two points are seen together. Motion stays clear of them.
   */
  function* eyelets() {
    const isTool = bench.tool === "eyelet";
    for (const id of isTool ? bench.order.filter((other) => bench.isSeen(other)) : bench.isMotion ? [] : bench.picked) {
      const { parent, seat } = bench.part(id);
      for (const eyelet of bench.part(id).eyelets) yield { id, eyelet };
      const home = !isTool && parent && bench.part(parent).eyelets.find((eyelet) => eyelet.id === seat);
      if (home) yield { id: parent, eyelet: home };
    }
  }

  let drawn = ""; // what is drawn, wherever it lies: under a dragging hand the same signs move

  function draw() {
    const result = drag.isPlaying || !bench.stage || !view.isShown ? [] : spots();
    const now = JSON.stringify(result.map(({ spot, name, owner, isPicked }) => [spot, name, owner, isPicked]));
    if (now === drawn)
      for (const [index, { at }] of result.entries()) holder.children[index].setAttribute("transform", `translate(${at.join(" ")})`);
    else holder.replaceChildren(...result.map(sign));
    drawn = now;
    const isNamed = ({ spot, isPicked }) => spot.mark || isPicked || bench.tool === "eyelet";
    labels.replaceChildren();
    for (const box of placedLabels(result.filter(isNamed))) label(box);
  }

  function spots() {
    const result = [];
    for (const mark of bench.marks) result.push({ spot: { mark: mark.id }, name: mark.name, at: view.onStage(mark.place) });
    for (const { id, eyelet } of eyelets()) {
      if (!bench.poseOf(id)) continue;
      const at = view.screen(id, eyelet.point);
      result.push({ spot: { part: id, eyelet: eyelet.id }, name: eyelet.name, at, owner: bench.part(id).name });
    }
    const isPicked = (spot) =>
      Boolean(bench.spot && bench.spot.mark === spot.mark && bench.spot.eyelet === spot.eyelet && bench.spot.part === spot.part);
    return result.map((one) => ({ ...one, isPicked: isPicked(one.spot) }));
  }

  function label({ text, x, y, width, height, from, isFar }) {
    const middle = x + width / 2;
    if (isFar)
      labels.prepend(
        svg("path", { d: `M${from} L${middle} ${y + height / 2}`, class: "stroke-lagoon", "stroke-width": 1, "stroke-opacity": 0.6 }),
      );
    labels.append(
      svg("rect", { x, y, width, height, rx: 4, class: "fill-card", "fill-opacity": 0.86 }),
      svg("text", { x: middle, y: y + height - 4.5, "text-anchor": "middle", class: "fill-lagoon-ink text-[11.5px] font-semibold" }, text),
    );
  }

  view.on(draw);
  bench.on("pose picked state scene seen", perFrame(draw));
}

/** A hatched tile for a mark, a ring for an eyelet. */
function sign({ spot, name, at: [x, y], owner, isPicked }) {
  const group = svg("g", { transform: `translate(${x} ${y})`, class: "cursor-grab" });
  if (spot.mark) {
    group.dataset.mark = spot.mark;
    group.append(
      svg("rect", { x: -8, y: -8, width: 16, height: 16, rx: 3, class: "fill-card stroke-lagoon", "stroke-width": isPicked ? 2.6 : 1.4 }),
      svg("rect", { x: -6, y: -6, width: 12, height: 12, rx: 2, fill: "url(#hatch)" }),
      svg("title", {}, `Mark ${name}`),
    );
  } else {
    group.dataset.eyelet = spot.eyelet;
    group.dataset.owner = spot.part;
    group.append(
      svg("circle", { r: 8.5, fill: "transparent", class: "stroke-card", "stroke-width": 5 }),
      svg("circle", { r: 8.5, fill: "transparent", class: "stroke-lagoon", "stroke-width": isPicked ? 3.4 : 2.2 }),
      svg("title", {}, `Eyelet ${name} of ${owner}`),
    );
  }
  return group;
}
