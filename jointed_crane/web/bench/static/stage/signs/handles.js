// What can be taken hold of, drawn over the stage in screen px: pins, the turning ring, scale handles, nine points.

import { clamp, perFrame, svg } from "../../elements/drawing.js";
import { cameraBody, frameOfCamera } from "./cameras.js";
import { makeBoxHandles } from "./box_handles.js";
import { makeFootholds } from "./footholds.js";
import { makeGoalLines } from "./goal_lines.js";
import { makeGrips } from "./grips.js";
import { makePlaces } from "../places.js";
import { makeKnees } from "./knees.js";
import { makeRings } from "./rings.js";

/**
 * Mounts the handles; `drag` is what the tools report of a drag under way, for the tag beside the pointer.
 * @param {Bench} bench
 * @param {View} view
 */
export function mountHandles(root, bench, view, drag) {
  const holder = svg("g");
  const tag = svg("g", { "pointer-events": "none", display: "none" });
  root.append(holder, tag);

  const places = makePlaces(bench, view);
  const { isSeen } = places;
  const { lineToParent, anyPin, nodes, zero, helper } = makeGrips(bench, view, holder, places);
  const goalLines = makeGoalLines(bench, view, holder, places);
  const { scaleHandles, ninePoints } = makeBoxHandles(bench, holder, places);
  const knees = makeKnees(bench, holder, places);
  const footholds = makeFootholds(bench, view, holder);
  const { sharedCentre, sharedRing, sharedScale, ring } = makeRings(bench, view, holder, drag, places);

  function draw() {
    holder.replaceChildren();
    if (drag.isPlaying || !view.isShown) return hideTag();
    if (bench.isDeep && view.look.side === "stage") frameOfCamera({ bench, view, holder }, edge);
    for (const id of bench.order) if (bench.part(id)?.kind === "helper" && isSeen(id)) helper(id);
    for (const id of bench.isDeep ? bench.order : [])
      if (bench.part(id)?.kind === "camera" && isSeen(id)) cameraBody({ bench, view, holder }, id);
    const lead = bench.lead && isSeen(bench.lead) ? bench.lead : null;
    if (bench.tool === "pivot") {
      for (const id of bench.order) if (isSeen(id) && !bench.part(id).locked && id !== lead) anyPin(id);
      if (lead) {
        ninePoints(lead);
        zero(lead);
      }
    }
    if (lead && bench.tool === "stand" && bench.isMotion) ninePoints(lead);
    for (const id of bench.picked) if (isSeen(id)) lineToParent(id);
    for (const id of bench.picked) if (isSeen(id)) goalLines(id);
    if (lead && bench.tool === "draw") nodes(lead);
    if (lead && (bench.tool === "move" || bench.tool === "turn")) bench.isTogether ? sharedRing(lead) : ring(lead);
    if (lead && bench.tool === "scale") bench.isTogether ? sharedScale() : scaleHandles(lead);
    if (lead && !drag.text && (bench.tool === "move" || bench.tool === "turn")) knees(lead);
    for (const id of bench.picked) if (isSeen(id)) anyPin(id, true);
    for (const id of bench.picked) if (isSeen(id)) footholds(id);
    drawTag();
  }

  function drawTag() {
    const words = typeof drag.text === "function" ? drag.text() : drag.text;
    if (!words) return hideTag();
    const width = words.length * 7.2 + 18;
    const [x, y] = drag.at;
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

  // Asking for the size while everything moves would lay the page out once more.
  let edge = { width: 0, height: 0 };
  new ResizeObserver(([entry]) => {
    edge = entry.contentRect;
  }).observe(root);
  const drawSoon = perFrame(draw);
  view.on(drawSoon);
  bench.on("pose picked state scene seen looks", drawSoon);
  drag.redraw = drawSoon;
  return { sharedCentre };
}
