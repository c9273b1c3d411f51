// The rings by which a part turns in depth: one for each of its turns as the view sees it, one round them about the line of sight; and
// arrows to move it along.

import { svg } from "../../elements/drawing.js";
import { RING } from "../drags/ring_drags.js";

/** How large the ring about the line of sight is, and how long arrows are, px on the screen. */
const [SIGHT, ARROW] = [84, 52];
const STEPS = 48;

/**
 * @param {Shared} shared
 * @param {string} id
 * @param {number[]} centre
 */
export function spaceRings({ bench, view, holder }, id, [x, y]) {
  const { rings } = bench;
  const seen = rings?.part === id ? rings.views[view.index] : null;
  if (!seen) return;
  sightRing(holder, id, x, y);
  if (bench.tool === "move" && bench.along !== "sight") arrows({ bench, view, holder }, [x, y]);
  const free = Object.entries(seen).filter(([channel]) => !bench.part(id).fixed.includes(channel));
  for (const [channel, ways] of free) {
    const points = Array.from({ length: STEPS + 1 }, (_, step) => pointOf(ways, (step / STEPS) * 2 * Math.PI, [x, y]));
    for (const isNear of [false, true])
      holder.append(
        svg("path", {
          d: arcs(points, isNear),
          fill: "none",
          class: "stroke-lagoon",
          "stroke-width": isNear ? 3.2 : 1.8,
          "stroke-opacity": isNear ? 0.9 : 0.3,
          "stroke-linecap": "round",
          "pointer-events": "none",
        }),
      );
    const turns = channel.at(-1);
    holder.append(hold({ d: `M${points.map(([px, py]) => `${px} ${py}`).join("L")}` }, id, turns, `Turn about ${turns}`));
  }
  for (const [channel, ways] of free) {
    const [kx, ky, near] = pointOf(ways, (rings.angles[channel] / 180) * Math.PI, [x, y]);
    knob(holder, id, channel.at(-1), kx, ky, near >= 0);
  }
}

/**
 * A point of a ring on the screen, and how near it is.
 * @param {number[]} ways
 * @param {number} radians
 * @param {number[]} centre
 */
function pointOf(ways, radians, [x, y]) {
  const [ax, ay, nearA, bx, by, nearB] = ways;
  const [cosine, sine] = [Math.cos(radians) * RING, Math.sin(radians) * RING];
  return [x + cosine * ax + sine * bx, y + cosine * ay + sine * by, cosine * nearA + sine * nearB];
}

/** The nearer or the farther pieces of a ring. */
function arcs(points, isNear) {
  let path = "";
  let isDown = false;
  for (const [index, [x, y]] of points.entries()) {
    const middle = (points[index][2] + (points[index + 1] ?? points[index])[2]) / 2;
    if (isDown) path += `L${x} ${y}`;
    const goesOn = index < points.length - 1 && middle >= 0 === isNear;
    if (goesOn && !isDown) path += `M${x} ${y}`;
    isDown = goesOn;
  }
  return path;
}

/** What is pressed of a ring, wider than it is drawn. */
function hold(shape, id, turns, words) {
  const attributes = { fill: "none", stroke: "transparent", "stroke-width": 12, "pointer-events": "stroke", class: "cursor-grab" };
  const element = svg("cx" in shape ? "circle" : "path", { ...shape, ...attributes, "data-ring": id, "data-turns": turns });
  element.append(svg("title", {}, words));
  return element;
}

function knob(holder, id, turns, x, y, isNear) {
  const group = svg("g", { transform: `translate(${x} ${y})`, opacity: isNear ? 1 : 0.55 });
  const data = { "data-ring": id, "data-turns": turns };
  group.append(
    svg("circle", { r: 8, class: "fill-card stroke-lagoon cursor-grab", "stroke-width": 2, ...data }),
    svg("text", { y: 3.6, "text-anchor": "middle", class: "fill-lagoon-ink text-[10.5px] font-bold", "pointer-events": "none" }, turns),
  );
  holder.append(group);
}

/** The outer ring, in the plane of the view. */
function sightRing(holder, id, x, y) {
  holder.append(
    svg("circle", {
      cx: x,
      cy: y,
      r: SIGHT,
      fill: "none",
      class: "stroke-lagoon",
      "stroke-opacity": 0.28,
      "stroke-width": 5,
      "pointer-events": "none",
    }),
    hold({ cx: x, cy: y, r: SIGHT }, id, "sight", "Turn in the plane of the view"),
  );
}

/**
 * Arrows along the axes that are chosen; one that is seen end-on is not drawn.
 * @param {Shared} shared
 */
function arrows({ bench, view, holder }, [x, y]) {
  const ways = bench.rings.axes?.[bench.along]?.[view.index] ?? [];
  for (const [index, [wx, wy]] of ways.entries()) {
    const length = Math.hypot(wx, wy);
    if (length < 0.12) continue;
    const axis = "xyz"[index];
    const [ex, ey] = [x + wx * ARROW, y + wy * ARROW];
    const [ux, uy] = [wx / length, wy / length];
    const head = `M${ex + ux * 9} ${ey + uy * 9}L${ex - uy * 5} ${ey + ux * 5}L${ex + uy * 5} ${ey - ux * 5}Z`;
    const group = svg("g", { class: "cursor-move" });
    const data = { "data-axis": axis, "data-way": `${wx},${wy}` };
    group.append(
      svg("path", { d: `M${x} ${y}L${ex} ${ey}`, class: "stroke-brass", "stroke-width": 2.4 }),
      svg("path", { d: head, class: "fill-brass stroke-brass", "stroke-linejoin": "round" }),
      svg("path", {
        d: `M${x + wx * 16} ${y + wy * 16}L${ex + ux * 12} ${ey + uy * 12}`,
        stroke: "transparent",
        "stroke-width": 16,
        ...data,
      }),
      svg(
        "text",
        {
          x: ex + ux * 18,
          y: ey + uy * 18 + 4,
          "text-anchor": "middle",
          class: "fill-brass-ink text-[11px] font-bold",
          "pointer-events": "none",
        },
        axis,
      ),
      svg("title", {}, `Move along ${axis}`),
    );
    holder.append(group);
  }
}
