// Cameras as a view sees them: a body of wire from where one stands to the corners of its picture; and the frame of what is sent.

import { svg } from "../../elements/drawing.js";

/**
 * The body of one camera, to be picked and dragged; not in its own view.
 * @param {Shared} shared
 * @param {string} id
 */
export function cameraBody({ bench, view, holder }, id) {
  const places = view.sight.cameras?.[id];
  if (!places || (view.look.side === "stage" && bench.cameraOn === id)) return;
  const [apex, ...corners] = places.map((place) => view.toScreen(place));
  if (places.some(([x]) => Math.abs(x) > 1e7)) return;
  const middle = [0, 1].map((axis) => (corners[0][axis] + corners[1][axis]) / 2);
  const up = [0, 1].map((axis) => middle[axis] + (middle[axis] - (corners[2][axis] + corners[3][axis]) / 2) * 0.18);
  const ring = `M${corners.map((corner) => corner.join(" ")).join("L")}Z`;
  const lines = corners.map((corner) => `M${apex.join(" ")}L${corner.join(" ")}`).join("");
  const top = `M${corners[0].join(" ")}L${up.join(" ")}L${corners[1].join(" ")}`;
  const isPicked = bench.picked.includes(id);
  const group = svg("g");
  group.append(
    svg("path", { d: `${ring}${lines}${top}`, fill: "none", class: "stroke-brass-ink", "stroke-width": isPicked ? 2.4 : 1.4 }),
    svg("path", {
      d: `${ring}${lines}`,
      fill: "none",
      stroke: "transparent",
      "stroke-width": 10,
      "pointer-events": "stroke",
      class: "cursor-pointer",
      "data-pick": id,
    }),
    svg("title", {}, bench.part(id).name),
  );
  holder.append(group);
}

/**
 * The edge of what is sent; outside is veiled.
 * @param {Shared} shared
 */
export function frameOfCamera({ bench, view, holder }, edge) {
  const { width, height } = bench.stage;
  const [[left, top], [right, bottom]] = [view.toScreen([0, 0]), view.toScreen([width, height])];
  const hole = `M${left} ${top}V${bottom}H${right}V${top}Z`;
  holder.append(
    svg("path", {
      d: `M-9 -9H${edge.width + 9}V${edge.height + 9}H-9Z${hole}`,
      "fill-rule": "evenodd",
      class: "fill-mat",
      "fill-opacity": 0.72,
      "pointer-events": "none",
    }),
    svg("path", { d: hole, fill: "none", class: "stroke-mute", "stroke-width": 1.2, "pointer-events": "none" }),
  );
}
