// Onion skin and the ghost of the rest pose: outlines of moving parts at other frames, over the figures.

import { get } from "../../../api.js";
import { saying } from "../../../notices.js";
import { svg } from "../../elements/drawing.js";
import { Film } from "../../time/film.js";
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
    if (film?.version !== bench.version) film = new Film(bench);
    const wanted = film;
    const answers = await Promise.all(frames().map(({ frame }) => wanted.fetch(frame)));
    return answers.every(Boolean) ? wanted : null;
  }
  async function atRest() {
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
    const isOff = drag.isPlaying || !bench.stage || !bench.isMotion;
    if (isOff || !(seeing.onion.isOn || seeing.isRestSeen)) return holder.replaceChildren();
    const shown = seeing.onion.isOn ? await filmed() : null;
    const pose = seeing.isRestSeen ? await atRest() : null;
    if (number !== asked) return;
    const rows = new Map(shown?.ids.map((id, row) => [id, row]));
    const result = [];
    for (const id of parts()) {
      if (pose?.parts[id]) result.push(ghost(bench, id, pose.parts[id], null, "stroke-ink", 0.8, "5 4"));
      if (!shown || !rows.has(id)) continue;
      for (const { frame, far, sign } of frames()) {
        const there = shown.at(frame);
        if (there)
          result.push(
            ghost(
              bench,
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
  bench.on("pose picked scene state playing", () => !bench.over && draw());
  seeing.on(draw);
}

/**
 * The outline of a part at another place; `shape` is its own one there, where that moves.
 * @param {Bench} bench
 */
function ghost(bench, id, place, shape, look, opacity, dashes = "") {
  const known = bench.poseOf(id);
  const drawing = bench.part(id).drawings[place.drawing];
  if (!drawing || !place.shown || !place.opacity) return null;
  const isStill = place.matrix.every((value, index) => Math.abs(value - known.matrix[index]) < STILL);
  if (isStill && shape?.d === bench.movingShape(id)?.d) return null;
  const [x, y] = drawing.registration;
  const back = shape ? ` translate(${-x} ${-y})` : "";
  return svg("path", {
    d: shape ? shape.d : ringsPath(drawing.outline),
    transform: `matrix(${place.matrix.join(" ")})${back}`,
    class: look,
    fill: dashes ? "none" : "",
    "fill-opacity": 0.16,
    opacity,
    "stroke-width": 1.2,
    "stroke-dasharray": dashes,
    "vector-effect": "non-scaling-stroke",
  });
}
