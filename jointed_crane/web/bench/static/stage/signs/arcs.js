// Arcs: the way of a pivot, or of the picked eyelet, with a dot for each frame and a larger one to drag at each key.

import { get } from "../../../api.js";
import { saying } from "../../../notices.js";
import { follow } from "../../elements/following.js";
import { readable, svg } from "../../elements/drawing.js";
import { askedView } from "../../state/looks.js";

const MOST = 30;

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function mountArcs(over, bench, view, seeing, drag) {
  const holder = svg("g", { "data-bench": "arcs" });
  over.append(holder);
  let ways = new Map();
  let asked = "";

  /** Bring the ways anew where the scene or what is picked has changed. */
  async function refresh() {
    const parts = seeing.areArcsSeen && bench.isMotion && view.isShown ? bench.picked.slice(0, MOST) : [];
    const point = bench.spot?.eyelet && bench.spotThing ? { id: bench.spot.part, at: bench.spotThing.point } : null;
    const through = bench.isDeep ? `&view=${encodeURIComponent(JSON.stringify(askedView(view.look)))}` : "";
    const wanted = JSON.stringify([bench.version, parts, point, through]);
    if (wanted === asked) return draw();
    asked = wanted;
    const result = new Map();
    if (parts.length) {
      const answer = await saying(() => get(`${bench.path}/arcs?parts=${encodeURIComponent(JSON.stringify(parts))}${through}`));
      for (const [id, way] of Object.entries(answer?.arcs ?? {})) result.set(id, way);
    }
    if (point && parts.length) {
      const answer = await saying(() =>
        get(`${bench.path}/drift?part=${encodeURIComponent(JSON.stringify(point.id))}&x=${point.at[0]}&y=${point.at[1]}${through}`),
      );
      if (answer) result.set(point.id, answer.path);
    }
    if (wanted !== asked) return;
    ways = result;
    draw();
  }

  function draw() {
    holder.replaceChildren();
    if (drag.isPlaying || !seeing.areArcsSeen || !bench.isMotion) return;
    for (const [id, way] of ways) if (bench.part(id)) holder.append(...arc(id, way));
  }

  function arc(id, way) {
    const places = way.map((place) => view.toScreen(place));
    const moves = places.some(([x, y]) => Math.hypot(x - places[0][0], y - places[0][1]) > 0.5);
    if (!moves) return [];
    const result = wayOf(places, places[Math.round(bench.frame)]);
    for (const frame of movesAt(bench, id)) if (places[frame]) result.push(grip({ bench, view, holder, draw }, id, frame, places[frame]));
    return result;
  }

  view.on(draw);
  bench.on("scene picked state looks", refresh);
  bench.on("pose playing", () => !bench.over && draw());
  seeing.on(refresh);
}

/** A line through all places, a dot for each, and a ring about the one that is now. */
function wayOf(places, now) {
  const result = [
    svg("path", {
      d: `M${places.map((place) => place.join(" ")).join("L")}`,
      fill: "none",
      class: "stroke-coral",
      "stroke-width": 1.5,
      "stroke-opacity": 0.7,
      "pointer-events": "none",
    }),
  ];
  const dot = ([x, y]) => `M${x - 1.6} ${y}a1.6 1.6 0 1 0 3.2 0a1.6 1.6 0 1 0 -3.2 0`;
  result.push(svg("path", { d: places.map(dot).join(""), class: "fill-coral", "pointer-events": "none" }));
  if (now)
    result.push(
      svg("circle", { cx: now[0], cy: now[1], r: 5, class: "fill-card stroke-coral", "stroke-width": 2, "pointer-events": "none" }),
    );
  return result;
}

/**
 * The whole frames on which a part has keys of where it is.
 * @param {Bench} bench
 */
function movesAt(bench, id) {
  const { channels } = bench.part(id);
  const frames = Object.entries(channels)
    .filter(([name]) => ["move", "slide"].includes(bench.channel(name).family))
    .flatMap(([, { keys }]) => keys.map(({ frame }) => frame));
  return [...new Set(frames)].filter(Number.isInteger);
}

/**
 * What is taken hold of at a key: a drag moves the part at that frame.
 * @param {Shared} shared
 */
function grip({ bench, view, holder, draw }, id, frame, [x, y]) {
  const element = svg("circle", {
    cx: x,
    cy: y,
    r: 5.5,
    class: "fill-brass stroke-card cursor-move",
    "stroke-width": 1.6,
    "data-arc-key": frame,
  });
  element.append(svg("title", {}, `${bench.part(id).name} at frame ${readable(frame)}: a drag moves it there`));
  element.addEventListener("pointerdown", (event) => {
    if (event.button !== 0) return;
    follow(event, {
      holder,
      previewer: bench.previewer,
      edits(dx, dy, now) {
        element.setAttribute("cx", x + dx);
        element.setAttribute("cy", y + dy);
        return [{ edit: "move_by", parts: [id], by: [dx / view.k, dy / view.k], frame, past_limits: now.ctrlKey, ...view.through }];
      },
      done: (isKept) => isKept || draw(),
    });
  });
  return element;
}
