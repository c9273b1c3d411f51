// What can be taken hold of, drawn over the stage in screen px: pins, the turning ring, scale handles, nine points.

import { clamp, pin, svg } from "./drawing.js";

export const RING = 62;

/** Mounts the handles; `drag` is what the tools report of a drag under way, for the tag beside the pointer. */
export function mountHandles(root, bench, view, drag) {
  const holder = svg("g");
  const tag = svg("g", { "pointer-events": "none", display: "none" });
  root.append(holder, tag);

  const screen = (id, point) => view.toScreen(bench.onStage(id, point));
  const pivotOf = (id) => view.toScreen(bench.poseOf(id).pivot);
  const isSeen = (id) => bench.poseOf(id) && bench.isSeen(id);

  function draw() {
    holder.replaceChildren();
    if (drag.isPlaying) return hideTag();
    for (const id of bench.order) if (bench.part(id)?.kind === "helper" && isSeen(id)) helper(id);
    const lead = bench.lead && isSeen(bench.lead) ? bench.lead : null;
    if (bench.tool === "pivot") {
      for (const id of bench.order) if (isSeen(id) && !bench.part(id).locked && id !== lead) anyPin(id);
      if (lead) {
        ninePoints(lead);
        zero(lead);
      }
    }
    for (const id of bench.picked) if (isSeen(id)) lineToParent(id);
    if (lead && bench.tool === "draw") nodes(lead);
    if (lead && (bench.tool === "move" || bench.tool === "turn")) bench.isTogether ? sharedRing(lead) : ring(lead);
    if (lead && bench.tool === "scale") bench.isTogether ? sharedScale() : scaleHandles(lead);
    for (const id of bench.picked) if (isSeen(id)) anyPin(id, true);
    drawTag();
  }

  function lineToParent(id) {
    const parent = bench.part(id).parent;
    if (!parent || !isSeen(parent)) return;
    const [x, y] = pivotOf(id);
    const [px, py] = pivotOf(parent);
    holder.append(
      svg("path", { d: `M${px} ${py}L${x} ${y}`, class: "stroke-lagoon", "stroke-width": 1.4, "stroke-dasharray": "1 4", "stroke-linecap": "round" }),
      pin(px, py, { size: 5, isFaint: true }),
    );
  }

  function anyPin(id, isPicked = false) {
    const [x, y] = pivotOf(id);
    const group = pin(x, y, { isPicked });
    group.setAttribute("data-pin", id);
    if (bench.tool === "pivot") group.classList.add("cursor-grab");
    else group.setAttribute("pointer-events", "none");
    group.append(svg("title", {}, `Pivot of ${bench.part(id).name}`));
    holder.append(group);
  }

  /** Nodes of a pen path and their handles, to be dragged. */
  function nodes(id) {
    const drawing = bench.drawingOf(id);
    if (drawing?.shape?.form !== "path") return;
    const [zeroX, zeroY] = drawing.registration;
    drawing.shape.contours.forEach((contour, contourIndex) =>
      contour.forEach(({ point, handle_in: before, handle_out: after }, index) => {
        const at = screen(id, [point[0] - zeroX, point[1] - zeroY]);
        const data = { "data-contour": contourIndex, "data-node-index": index };
        for (const [which, offset] of [["handle_in", before], ["handle_out", after]]) {
          if (!offset) continue;
          const [x, y] = screen(id, [point[0] + offset[0] - zeroX, point[1] + offset[1] - zeroY]);
          holder.append(
            svg("path", { d: `M${at.join(" ")}L${x} ${y}`, class: "stroke-lagoon", "stroke-width": 1.2, "pointer-events": "none" }),
            svg("circle", { cx: x, cy: y, r: 4.5, class: "fill-lagoon-light stroke-lagoon cursor-grab", "stroke-width": 1.6, "data-path-node": which, ...data }),
          );
        }
        holder.append(svg("rect", { x: at[0] - 5, y: at[1] - 5, width: 10, height: 10, rx: before || after ? 5 : 1.5, class: "fill-card stroke-lagoon cursor-grab", "stroke-width": 2, "data-path-node": "point", ...data }));
      }),
    );
  }

  /** A corner bracket at the art's zero, along the art's own axes. */
  function zero(id) {
    if (!bench.drawingOf(id)) return;
    const [a, b, c, d, e, f] = bench.poseOf(id).matrix;
    const [x, y] = view.toScreen([e, f]);
    const along = (dx, dy) => {
      const size = Math.hypot(dx, dy) || 1;
      return [x + (dx / size) * 16, y + (dy / size) * 16].join(" ");
    };
    const group = svg("g", { class: "cursor-grab", "data-zero": id });
    const path = `M${along(a, b)}L${x} ${y}L${along(c, d)}`;
    group.append(
      svg("path", { d: path, fill: "none", stroke: "transparent", "stroke-width": 14 }),
      svg("path", { d: path, fill: "none", class: "stroke-card", "stroke-width": 6, "stroke-linejoin": "round", "stroke-linecap": "round" }),
      svg("path", { d: path, fill: "none", class: "stroke-lagoon", "stroke-width": 3, "stroke-linejoin": "round", "stroke-linecap": "round" }),
      svg("title", {}, `Registration of ${bench.part(id).name}`),
    );
    holder.append(group);
  }

  function helper(id) {
    const [x, y] = pivotOf(id);
    const half = clamp((bench.part(id).size * view.k) / 2, 7, 60);
    const look = {
      fill: "transparent", class: "stroke-lagoon cursor-pointer", "stroke-width": bench.picked.includes(id) ? 2.6 : 1.6, "stroke-dasharray": "5 3.5",
      "pointer-events": "all", "data-pick": id,
    };
    const box = { x: x - half, y: y - half, width: 2 * half, height: 2 * half, rx: bench.part(id).form === "round" ? half : 5 };
    const sign =
      bench.part(id).form === "cross"
        ? svg("path", { d: `M${x - half} ${y}H${x + half}M${x} ${y - half}V${y + half}`, ...look })
        : svg("rect", { ...box, ...look });
    sign.append(svg("title", {}, bench.part(id).name));
    holder.append(sign);
  }

  /** Where picked parts turn together, on the screen. */
  function sharedCentre() {
    const mark = bench.marks.find((other) => other.id === bench.about);
    if (mark) return view.toScreen(mark.place);
    if (bench.about === "last picked") return pivotOf(bench.lead);
    const places = bench.picked.map(pivotOf);
    return [0, 1].map((axis) => places.reduce((sum, place) => sum + place[axis], 0) / places.length);
  }

  function sharedRing(id) {
    const [x, y] = sharedCentre();
    ringAt(id, x, y, drag.together ?? 0, null);
    holder.append(svg("path", { d: `M${x - 7} ${y}H${x + 7}M${x} ${y - 7}V${y + 7}`, class: "stroke-lagoon", "stroke-width": 2, "pointer-events": "none" }));
  }

  function sharedScale() {
    const [x, y] = sharedCentre();
    for (const [dx, dy] of [[-1, -1], [1, -1], [1, 1], [-1, 1]]) {
      const at = [x + dx * RING, y + dy * RING];
      holder.append(
        svg("path", { d: `M${x} ${y}L${at.join(" ")}`, class: "stroke-lagoon", "stroke-width": 1, "stroke-dasharray": "4 3", "pointer-events": "none" }),
        svg("rect", { x: at[0] - 5.5, y: at[1] - 5.5, width: 11, height: 11, rx: 2, class: "fill-card stroke-lagoon cursor-grab", "stroke-width": 2, "data-scale": "both" }),
      );
    }
  }

  function ring(id) {
    const [x, y] = pivotOf(id);
    const limit = bench.isMotion ? bench.part(id).limits["turn.z"] : null;
    ringAt(id, x, y, bench.value(id, "turn.z"), limit);
  }

  function ringAt(id, x, y, degrees, limit) {
    const radians = (degrees / 180) * Math.PI;
    const knob = [x + RING * Math.sin(radians), y - RING * Math.cos(radians)];
    holder.append(
      svg("circle", { cx: x, cy: y, r: RING, fill: "none", class: "stroke-lagoon", "stroke-opacity": limit ? 0.16 : 0.28, "stroke-width": 9, "pointer-events": "none" }),
      ...allowed(x, y, limit),
      svg("path", { d: between(x, y, RING, Math.min(degrees, 0), Math.max(degrees, 0)), fill: "none", class: "stroke-lagoon", "stroke-opacity": 0.75, "stroke-width": 9, "pointer-events": "none" }),
      svg("path", { d: `M${x} ${y}L${knob.join(" ")}`, class: "stroke-lagoon", "stroke-width": 1.4, "pointer-events": "none" }),
      svg("circle", { cx: x, cy: y, r: RING, fill: "none", stroke: "transparent", "stroke-width": 18, "pointer-events": "stroke", class: "cursor-grab", "data-ring": id }),
      svg("circle", { cx: knob[0], cy: knob[1], r: 7, class: "fill-card stroke-lagoon cursor-grab", "stroke-width": 2.4, "data-ring": id }),
    );
  }

  /** The allowed range as the darker arc; a side that is open reaches half round. */
  function allowed(x, y, limit) {
    if (!limit) return [];
    const [low, high] = [Math.max(limit[0] ?? -180, -359.9), Math.min(limit[1] ?? 180, 359.9)];
    const shape = { fill: "none", class: "stroke-lagoon", "stroke-opacity": 0.4, "stroke-width": 9, "pointer-events": "none" };
    return [svg("path", { d: between(x, y, RING, low, high), ...shape })];
  }

  function box(id) {
    const [left, top, right, bottom] = bench.drawingOf(id)?.bounds ?? helperBox(id);
    return { left, top, right, bottom, middleX: (left + right) / 2, middleY: (top + bottom) / 2 };
  }
  function helperBox(id) {
    const { pivot, size } = bench.part(id);
    return [pivot[0] - size / 2, pivot[1] - size / 2, pivot[0] + size / 2, pivot[1] + size / 2];
  }

  function scaleHandles(id) {
    const { left, top, right, bottom, middleX, middleY } = box(id);
    const corners = [[left, top], [right, top], [right, bottom], [left, bottom]];
    holder.append(svg("path", { d: `M${corners.map((point) => screen(id, point).join(" ")).join("L")}Z`, fill: "none", class: "stroke-lagoon", "stroke-width": 1, "stroke-dasharray": "4 3", "pointer-events": "none" }));
    const edges = [["x", left, middleY], ["x", right, middleY], ["y", middleX, top], ["y", middleX, bottom]];
    for (const [axes, artX, artY] of edges) handle(id, axes, [artX, artY], 4);
    for (const point of corners) handle(id, "both", point, 5.5);
  }

  function handle(id, axes, point, size) {
    const [x, y] = screen(id, point);
    holder.append(
      svg("rect", { x: x - size, y: y - size, width: 2 * size, height: 2 * size, rx: axes === "both" ? 2 : size, class: "fill-card stroke-lagoon cursor-grab", "stroke-width": 2, "data-scale": axes }),
    );
  }

  function ninePoints(id) {
    if (!bench.drawingOf(id)) return;
    const { left, top, right, bottom, middleX, middleY } = box(id);
    for (const artY of [top, middleY, bottom])
      for (const artX of [left, middleX, right]) {
        const [x, y] = screen(id, [artX, artY]);
        holder.append(svg("rect", { x: x - 4, y: y - 4, width: 8, height: 8, class: "fill-card stroke-brass", "stroke-width": 1.6, "pointer-events": "none" }));
      }
  }

  function drawTag() {
    const words = typeof drag.text === "function" ? drag.text() : drag.text;
    if (!words) return hideTag();
    const width = words.length * 7.2 + 18;
    const [x, y] = drag.at;
    const edge = root.getBoundingClientRect();
    tag.replaceChildren(
      svg("rect", { width, height: 24, rx: 6, class: "fill-ink" }),
      svg("text", { x: width / 2, y: 16.5, "text-anchor": "middle", class: "fill-on-ink text-[13px] font-bold" }, words),
    );
    tag.setAttribute("transform", `translate(${clamp(x + 18, 4, edge.width - width - 4)} ${clamp(y - 34, 4, edge.height - 28)})`);
    tag.setAttribute("display", "inline");
  }
  function hideTag() {
    tag.setAttribute("display", "none");
  }

  view.on(draw);
  bench.on("pose picked state scene", draw);
  drag.redraw = draw;
  return { sharedCentre };
}

/** The arc from one angle to another, both clockwise from straight up; a whole turn and more is a closed ring. */
function between(x, y, radius, low, high) {
  const at = (degrees) => {
    const radians = (degrees / 180) * Math.PI;
    return `${x + radius * Math.sin(radians)} ${y - radius * Math.cos(radians)}`;
  };
  const span = high - low;
  if (span >= 359.9) return `M${at(0)}A${radius} ${radius} 0 1 1 ${at(359.9)}`;
  return `M${at(low)}A${radius} ${radius} 0 ${span > 180 ? 1 : 0} 1 ${at(high)}`;
}
