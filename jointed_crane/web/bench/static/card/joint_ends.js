// How far joints are open, and whether the ends of one are round: what the server found, as the joint tab shows it.

import { pin, readable, svg } from "../elements/drawing.js";
import { ringsPath } from "../stage/figures.js";

const gapText = (distance) => `${readable(distance, distance < 0.1 ? 6 : 2)} px`;

/** @param {Bench} bench */
export function drawGaps(find, bench, gaps) {
  const own = gaps.find((gap) => gap.part === bench.lead);
  find("gap").textContent = own ? `gap ${gapText(own.distance)}` : "";
  find("gap").classList.toggle("text-coral-ink", Boolean(own) && own.distance > 0.01);
  if (find("gap-list").hidden) return;
  const rows = gaps.map((gap) => {
    const row = document.createElement("li");
    const name = document.createElement("button");
    name.className = "hover:underline";
    name.textContent = bench.part(gap.part)?.name ?? "";
    name.addEventListener("click", () => bench.pick([gap.part]));
    const distance = document.createElement("span");
    distance.textContent = `${gapText(gap.distance)}${gap.is_seated ? "" : " · not seated"}`;
    if (gap.distance > 0.01) distance.className = "text-coral-ink";
    row.className = "flex justify-between gap-2";
    row.append(name, distance);
    return row;
  });
  if (!rows.length) rows.push("No part has an eyelet to lie in yet.");
  find("gap-list").replaceChildren(...rows);
}

/** @param {Bench} bench */
export function drawRound(find, bench, id, joint) {
  find("round").hidden = !joint;
  find("into").hidden = !bench.drawingOf(id);
  if (!joint) return;
  const { child, parent, difference } = joint;
  const names = [bench.part(id).name, bench.part(bench.part(id).parent)?.name];
  find("radii").textContent =
    child && parent
      ? `${names[0]} ${readable(child, 1)} px, ${names[1]} ${readable(parent, 1)} px; ${difference < 0.05 ? "equal" : `${readable(difference, 1)} px apart`}.`
      : "The pivot lies outside one of the two arts, so the joint opens.";
  const isRound = joint.is_child_round || joint.is_parent_round;
  find("patch").hidden = !isRound || joint.is_patched || (child > 0 && parent > 0 && difference < 0.05);
  for (const [index, end] of joint.ends.entries()) drawEnd(find(`end-${index}`), bench, id, joint, end);
}

/** @param {Bench} bench */
function drawEnd(picture, bench, id, joint, end) {
  const own = bench.part(id);
  const parent = bench.part(own.parent);
  const [a, b, c, d, e, f] = end.matrix;
  const at = [a * own.pivot[0] + c * own.pivot[1] + e, b * own.pivot[0] + d * own.pivot[1] + f];
  const reach = Math.max(joint.child, joint.parent, 8) * 3;
  picture.setAttribute("viewBox", `${at[0] - reach * 1.4} ${at[1] - reach} ${reach * 2.8} ${reach * 2}`);
  const shape = (drawing, matrix, colour) =>
    svg("path", {
      d: ringsPath(drawing.outline),
      transform: `matrix(${matrix.join(" ")})`,
      class: colour,
      "fill-rule": "evenodd",
      "fill-opacity": 0.75,
    });
  const sign = pin(at[0], at[1], { size: 5 });
  sign.setAttribute("transform", `translate(${at[0]} ${at[1]}) scale(${reach / 60})`);
  const tag = svg(
    "text",
    { x: at[0] - reach * 1.32, y: at[1] - reach * 0.74, class: "fill-ink", "font-size": reach * 0.24 },
    `${readable(end.turn, 1)}°`,
  );
  picture.replaceChildren(
    shape(parent.drawings[0], joint.parent_matrix, "fill-mute"),
    shape(bench.drawingOf(id) ?? own.drawings[0], end.matrix, "fill-brass"),
    sign,
    tag,
  );
}
