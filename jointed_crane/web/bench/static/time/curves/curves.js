// The curve view: the picked parts' channels as curves over time, or their speeds, with keys and handles to be dragged.

import { get } from "../../../api.js";
import { saying } from "../../../notices.js";
import { svg } from "../../elements/drawing.js";
import { RULER } from "../axis.js";
import { makeCurveDrags } from "./curve_drags.js";
import { makeCurvePicture } from "./curve_picture.js";
import { Scales } from "./scales.js";

const COLOURS = ["slate", "clay", "moss", "plum", "reed"];
const MOST = 40;
const MOST_GRIPS = 600; // more keys than these are drawn as marks; picking fewer parts brings their grips
const nameOf = ({ part, channel }) => `${part} ${channel}`;

/**
 * What draws the view into the time panel's picture; `view()` is "keys", "curves" or "speeds".
 * @param {Shared} shared
 */
export function makeCurves({ bench, picture, field, axis, view, redraw, isPickedKey, pickKeys }) {
  const scales = new Scales();
  let kept = [];
  let asked = 0;
  const press = makeCurveDrags({ bench, picture, axis, scales, isPickedKey, pickKeys, curveOf });
  const { drawAxis, drawCurve, line } = makeCurvePicture({
    bench,
    axis,
    scales,
    view,
    shown,
    keysOf,
    rangeOf,
    nameOf,
    isPickedKey,
    pickKeys,
    press,
  });

  /** Bring the curves of what is picked; previews then answer with theirs. */
  async function refresh() {
    const isOpen = view() !== "keys";
    bench.curves = isOpen ? wanted(bench) : [];
    if (!isOpen) return;
    asked += 1;
    const number = asked;
    const answer =
      bench.curves.length && (await saying(() => get(`${bench.path}/curves?channels=${encodeURIComponent(JSON.stringify(bench.curves))}`)));
    if (number !== asked) return;
    kept = answer ? answer.curves : [];
    redraw();
  }

  function shown() {
    return bench.over?.curves ?? kept;
  }
  function curveOf(part, channel) {
    return shown().find((curve) => curve.part === part && curve.channel === channel);
  }
  function keysOf({ part, channel }) {
    return bench.part(part)?.channels[channel]?.keys ?? [];
  }

  /** Lowest and highest value of a curve as it is kept: under a dragging hand the scales stay. */
  function rangeOf(shownCurve) {
    const curve = kept.find((one) => nameOf(one) === nameOf(shownCurve)) ?? shownCurve;
    const keys = bench.parts.get(curve.part)?.channels[curve.channel]?.keys ?? [];
    const places =
      view() === "speeds" ? curve.speeds : [...curve.segments.flat(), ...curve.course, ...keys.map(({ frame, value }) => [frame, value])];
    const heights = places.map(([, value]) => value);
    return [Math.min(...heights), Math.max(...heights)];
  }

  /** Draw all curves into a picture of a height. */
  function draw(height) {
    const curves = shown().filter((curve) => bench.part(curve.part));
    scales.lay(new Map(curves.map((curve) => [nameOf(curve), rangeOf(curve)])), height);
    const isMany = new Set(curves.map(({ part }) => part)).size > 1;
    const areGrips = curves.reduce((count, curve) => count + keysOf(curve).length, 0) <= MOST_GRIPS;
    curves.forEach((curve, index) => {
      const group = svg("g", { "data-tag": COLOURS[index % COLOURS.length], class: "curve" });
      const lane = scales.of.get(nameOf(curve));
      if (scales.areLanes || !index) drawAxis(group, curve, lane);
      if (view() === "speeds") group.append(line(curve.speeds, lane));
      else drawCurve(group, curve, lane, areGrips);
      field.append(group);
      const y = scales.areLanes ? (lane.from + lane.to) / 2 + 4 : RULER + 18 + index * 18;
      const words = `${isMany ? `${bench.part(curve.part).name} · ` : ""}${bench.channelOf(curve.part, curve.channel)}`;
      const keys = keysOf(curve).map(({ frame }) => ({ part: curve.part, channel: curve.channel, frame }));
      picture.append(...nameOfCurve(words, y, COLOURS[index % COLOURS.length], (isMore) => pickKeys(keys, isMore)));
    });
    if (!areGrips && view() === "curves")
      picture.append(svg("text", { x: 14, y: height - 10, class: "fill-mute text-[11.5px]" }, "Pick fewer parts to drag keys"));
    return curves.length;
  }

  return { draw, refresh, scales };
}

/**
 * The channels that are drawn: of the parts picked, those that do not go in steps.
 * @param {Bench} bench
 * @returns {[part: string, channel: string][]}
 */
function wanted(bench) {
  const parts = bench.picked.filter((id) => bench.parts.has(id));
  const found = parts.flatMap((part) =>
    Object.keys(bench.parts.get(part).channels).map((channel) => /** @type {[string, string]} */ ([part, channel])),
  );
  return found.filter(([, channel]) => !bench.channel(channel).stepped).slice(0, MOST);
}

/** The name of a curve in its colour; a click picks its keys. */
function nameOfCurve(words, y, tag, pick) {
  const text = svg("text", { x: 30, y, class: "fill-ink cursor-pointer" }, words.length > 20 ? `${words.slice(0, 19)}…` : words);
  text.append(svg("title", {}, `Pick all keys of ${words}`));
  text.addEventListener("click", (event) => pick(event.shiftKey));
  return [svg("path", { d: `M14 ${y - 4}h10`, class: "curve-line", "stroke-width": 3.5, "data-tag": tag }), text];
}
