// Onion skin and the ghost of the rest pose: outlines of moving parts at other frames, over the figures.

import { get, post } from "../../../api.js";
import { saying } from "../../../notices.js";
import { svg } from "../../elements/drawing.js";
import { askedView } from "../../state/looks.js";
import { Film } from "../../time/film.js";
import { ringsOf, seenRings } from "../deep_figures.js";
import { ringsPath } from "../figures.js";

/** Two places of a part closer than this are one, in units of its matrix. */
const STILL = 1e-3;

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function mountGhosts(over, bench, view, seeing, drag) {
  const holder = svg("g", { "pointer-events": "none", "data-bench": "ghosts" });
  over.prepend(holder);
  let film = null;
  let rest = null;
  let asked = 0;

  /** Frames that are seen besides this one, each with how far away it is from 0 to 1. */
  function frames() {
    const { before, after, every } = seeing.onion;
    const at = (count, sign) =>
      Array.from({ length: count }, (_, index) => ({
        frame: Math.round(bench.frame) + sign * every * (index + 1),
        far: index / count,
        sign,
      }));
    return [...at(before, -1), ...at(after, 1)].filter(({ frame }) => frame >= 0 && frame < bench.stage.length);
  }

  async function filmed() {
    const look = bench.isDeep ? view.look : null;
    const key = JSON.stringify([bench.version, look]);
    if (film?.key !== key) film = Object.assign(new Film(bench, look), { key });
    const wanted = film;
    const answers = await Promise.all(frames().map(({ frame }) => wanted.fetch(frame)));
    return answers.every(Boolean) ? wanted : null;
  }
  async function atRest() {
    if (bench.isDeep) return restSeen(bench, view);
    if (rest?.version !== bench.version) rest = await saying(() => get(`${bench.path}/pose?frame=rest`));
    return rest?.version === bench.version ? rest.pose : null;
  }

  /** The parts that may leave a ghost: seen, and where wished picked ones with what hangs on them alone. */
  function parts() {
    const { isPickedOnly } = seeing.onion;
    const isWanted = (id) =>
      !isPickedOnly || bench.picked.includes(id) || bench.ancestors(id).some((above) => bench.picked.includes(above));
    return bench.order.filter((id) => bench.isSeen(id) && isWanted(id));
  }

  async function draw() {
    asked += 1;
    const number = asked;
    const isOff = drag.isPlaying || !bench.stage || !bench.isMotion || !view.isShown;
    if (isOff || !(seeing.onion.isOn || seeing.isRestSeen)) return holder.replaceChildren();
    const shown = seeing.onion.isOn ? await filmed() : null;
    const pose = seeing.isRestSeen ? await atRest() : null;
    if (number !== asked) return;
    const rows = new Map(shown?.ids.map((id, row) => [id, row]));
    const result = [];
    for (const id of parts()) {
      if (pose?.parts[id]) result.push(ghost({ bench, view }, id, pose.parts[id], null, "stroke-ink", 0.8, "5 4"));
      if (!shown || !rows.has(id)) continue;
      for (const { frame, far, sign } of frames()) {
        const there = shown.at(frame);
        if (there)
          result.push(
            ghost(
              { bench, view },
              id,
              there.part(rows.get(id)),
              there.shapeOf(id),
              sign < 0 ? "fill-brass stroke-brass" : "fill-lagoon stroke-lagoon",
              0.75 * (1 - far),
            ),
          );
      }
    }
    holder.replaceChildren(...result.filter(Boolean));
  }

  view.on(() => holder.setAttribute("transform", `scale(${view.k}) translate(${-view.x} ${-view.y})`));
  bench.on("pose picked scene state playing looks", () => !bench.over && draw());
  seeing.on(draw);
}

/**
 * The rest pose as a view sees it.
 * @param {Bench} bench
 * @param {View} view
 */
async function restSeen(bench, view) {
  const answer = await saying(() => post(`${bench.path}/seen`, { frame: null, views: [askedView(view.look)] }));
  const known = await saying(() => get(`${bench.path}/pose?frame=rest`));
  if (answer?.version !== bench.version || known?.version !== bench.version) return null;
  const { parts } = answer.views[0];
  return { parts: Object.fromEntries(Object.entries(known.pose.parts).map(([id, part]) => [id, { ...part, map: parts[id]?.map }])) };
}

/**
 * The outline of a part at another place; `shape` is its own one there, where that moves.
 * @param {Shared} shared
 */
function ghost({ bench, view }, id, place, shape, look, opacity, dashes = "") {
  const { sight } = view;
  const known = sight ? sight.parts[id] : bench.poseOf(id);
  const drawing = bench.part(id).drawings[place.drawing];
  if (!drawing || !place.shown || !place.opacity) return null;
  if (!known) return null;
  const [now, then] = sight ? [known.map, place.map] : [known.matrix, place.matrix];
  const isStill = then.every((value, index) => Math.abs(value - now[index]) < STILL);
  if (isStill && shape?.d === bench.movingShape(id)?.d) return null;
  const [x, y] = drawing.registration;
  const back = shape ? ` translate(${-x} ${-y})` : "";
  return svg("path", {
    ...(sight
      ? { d: seenRings(ringsOf(drawing, shape), then) }
      : { d: shape ? shape.d : ringsPath(drawing.outline), transform: `matrix(${then.join(" ")})${back}` }),
    class: look,
    fill: dashes ? "none" : "",
    "fill-opacity": 0.16,
    opacity,
    "stroke-width": 1.2,
    "stroke-dasharray": dashes,
    "vector-effect": "non-scaling-stroke",
  });
}
