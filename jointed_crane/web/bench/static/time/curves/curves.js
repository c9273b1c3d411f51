// The curve view: the picked parts' channels as curves over time, or their speeds, with keys and handles to be dragged.

import { get } from "../../../api.js";
import { saying } from "../../../notices.js";
import { onPressed, svg } from "../../elements/drawing.js";
import { RULER } from "../axis.js";
import { makeCurveDrags } from "./curve_drags.js";
import { makeCurvePicture } from "./curve_picture.js";
import { Scales } from "./scales.js";

const COLOURS = ["slate", "clay", "moss", "plum", "reed"];
const MOST = 40;
const MOST_GRIPS = 600; // more keys than these are drawn as marks; picking fewer parts brings their grips
const tagOf = (index) => COLOURS[index % COLOURS.length];
/** Places down the stage grow downwards there, and here too. */
const isDownward = (name) => /^(move|slide)\.y$/.test(name.split(" ")[1]);
const nameOf = ({ part, channel }) => `${part} ${channel}`;

/**
 * What draws the view into the time panel's picture; `view()` is "keys", "curves" or "speeds".
 * @param {Shared} shared
 */
export function makeCurves({ bench, picture, field, axis, view, redraw, isPickedKey, pickKeys }) {
  const scales = new Scales();
  const hidden = new Set(); // the names of curves that are not drawn
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
    const known = shown().filter((curve) => bench.part(curve.part));
    const curves = known.filter((curve) => !hidden.has(nameOf(curve)));
    scales.lay(new Map(curves.map((curve) => [nameOf(curve), rangeOf(curve)])), height, (name) => view() !== "speeds" && isDownward(name));
    const areGrips = curves.reduce((count, curve) => count + keysOf(curve).length, 0) <= MOST_GRIPS;
    const axes = [];
    known.forEach((curve, index) => {
      const lane = scales.of.get(nameOf(curve));
      if (!lane) return;
      const group = svg("g", { "data-tag": tagOf(index), class: "curve" });
      if (scales.areLanes || !axes.length) axes.push([group, curve, lane]);
      if (view() === "speeds") group.append(line(curve.speeds, lane));
      else drawCurve(group, curve, lane, areGrips);
      field.append(group);
    });
    for (const [group, curve, lane] of axes) drawAxis(group, picture, curve, lane, height);
    drawNames(known, { bench, picture, scales, hidden, keysOf, pickKeys, redraw });
    if (!areGrips && view() === "curves")
      picture.append(svg("text", { x: 14, y: height - 10, class: "fill-mute text-[11.5px]" }, "Pick fewer parts to drag keys"));
    return known.length;
  }

  return { draw, refresh, scales };
}

/** The names of all curves, hidden ones too, each in its colour. */
function drawNames(known, { bench, picture, scales, hidden, keysOf, pickKeys, redraw }) {
  const isMany = new Set(known.map(({ part }) => part)).size > 1;
  known.forEach((curve, index) => {
    const [name, lane] = [nameOf(curve), scales.of.get(nameOf(curve))];
    const y = scales.areLanes && lane ? (lane.from + lane.to) / 2 + 4 : RULER + 18 + index * 18;
    const words = `${isMany ? `${bench.part(curve.part).name} · ` : ""}${bench.channelOf(curve.part, curve.channel)}`;
    const keys = keysOf(curve).map(({ frame }) => ({ part: curve.part, channel: curve.channel, frame }));
    picture.append(
      ...nameOfCurve(words, y, tagOf(index), {
        isHidden: !lane,
        letters: scales.areSaid ? 15 : 20, // the values stand beside them
        pick: (isMore) => pickKeys(keys, isMore),
        hide: () => {
          if (!hidden.delete(name)) hidden.add(name);
          redraw();
        },
      }),
    );
  });
}

/**
 * The channels that are drawn: of the parts picked, those that do not go in steps.
 * @param {Bench} bench
 * @returns {[part: string, channel: string][]}
 */
function wanted(bench) {
  const parts = bench.picked.filter((id) => bench.parts.has(id));
  const result = parts.flatMap((part) =>
    Object.keys(bench.parts.get(part).channels).map((channel) => /** @type {[string, string]} */ ([part, channel])),
  );
  return result.filter(([, channel]) => !bench.channel(channel).stepped).slice(0, MOST);
}

/** The name of a curve, a click picks its keys; and its colour, which hides it and shows it again. */
function nameOfCurve(words, y, tag, { isHidden, letters, pick, hide }) {
  const text = svg(
    "text",
    { x: 30, y, class: `${isHidden ? "fill-mute line-through" : "fill-ink"} cursor-pointer` },
    words.length > letters ? `${words.slice(0, letters - 1)}…` : words,
  );
  text.append(svg("title", {}, isHidden ? `Show ${words}` : `Pick all keys of ${words}`));
  text.addEventListener("click", (event) => (isHidden ? hide() : pick(event.shiftKey)));
  const act = `${isHidden ? "Show" : "Hide"} ${words}`;
  const sign = svg("g", {
    tabindex: 0,
    role: "button",
    "aria-label": act,
    "aria-pressed": !isHidden,
    "data-hides": words,
    class: "cursor-pointer",
  });
  sign.append(
    svg("rect", { x: 10, y: y - 12, width: 17, height: 16, fill: "transparent" }),
    svg("path", {
      d: `M14 ${y - 4}h10`,
      class: "curve-line",
      "stroke-width": isHidden ? 1.2 : 3.5,
      "stroke-dasharray": isHidden ? "2 2" : "none",
      "data-tag": tag,
    }),
    svg("title", {}, act),
  );
  sign.addEventListener("click", hide);
  onPressed(sign, hide);
  return [sign, text];
}
