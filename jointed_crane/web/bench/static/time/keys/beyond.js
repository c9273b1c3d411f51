// What a channel does by itself, drawn pale or thin: its keys again where a cycle repeats them, and its sway as it runs.

import { svg } from "../../elements/drawing.js";

const CLOSEST = 4; // px between keys that are drawn one by one

/**
 * The keys of a channel again before its first and after its last, as its cycles take them there.
 * @param {Axis} axis
 */
export function keysAgain(axis, { keys = [], before = "hold", after = "hold" }, middle) {
  if (keys.length < 2) return [];
  const result = [...again(axis, keys, after, 1), ...again(axis, keys, before, -1)];
  if (!result.length) return [];
  const marks = result.map((frame) => `M${axis.xOf(frame)} ${middle - 5}v10`).join("");
  return [
    svg("path", {
      d: marks,
      class: "stroke-brass",
      "stroke-opacity": 0.35,
      "stroke-width": 5,
      "stroke-linecap": "round",
      "pointer-events": "none",
    }),
  ];
}

/** The frames on which keys come again on one side, those that are seen; none where they would lie on each other. */
function again(axis, keys, outside, side) {
  if (!["repeat", "back and forth", "repeat onwards"].includes(outside)) return [];
  const frames = keys.map(({ frame }) => frame);
  const [first, last] = [frames[0], frames.at(-1)];
  const span = last - first;
  if ((span * axis.scale) / frames.length < CLOSEST) return [];
  const [seen, until] = [axis.begin, axis.begin + axis.span];
  const rounds =
    side > 0 ? [Math.max(Math.floor((seen - first) / span), 1), Math.ceil((until - first) / span)] : [1, Math.ceil((last - seen) / span)];
  const result = [];
  for (let round = rounds[0]; round <= rounds[1]; round += 1)
    for (const frame of frames) {
      const isBack = outside === "back and forth" && round % 2;
      const at = (isBack ? first + last - frame : frame) + side * round * span;
      if (axis.isSeen(at) && (side > 0 ? at > last : at < first)) result.push(at);
    }
  return result;
}

/**
 * The wave that says that a channel sways; of one channel as it runs, with its period, its beginning and its end.
 * @param {Axis} axis
 */
export function swayLine(axis, middle, sway = null) {
  const [from, to] = [axis.left, axis.width - 20];
  const points = [];
  for (let x = from; x < to; x += 3) {
    const size = sway ? sizeAt(sway, axis.frameOf(x)) : 1;
    const turns = sway ? axis.frameOf(x) / swingOf(sway) + sway.phase : (x - from) / 88;
    if (size) points.push(`${points.length ? "L" : "M"}${x} ${middle - 5 * size * Math.sin(2 * Math.PI * turns)}`);
  }
  const isDense = sway && swingOf(sway) * axis.scale < 3 * CLOSEST;
  const d = isDense ? `M${from} ${middle}H${to}` : points.join("");
  return svg("path", {
    d,
    fill: "none",
    class: "stroke-brass",
    "stroke-opacity": 0.5,
    "stroke-width": isDense ? 9 : 1,
    "pointer-events": "none",
  });
}

/** Frames of one swing: as many whole ones as come nearest to the period fill the time in which it comes round. */
const swingOf = ({ period, comes_round: round = null }) => (round === null ? period : round / Math.max(1, Math.round(round / period)));

/** How much of a sway is there at a frame, from 0 to 1. */
function sizeAt({ begin, end, fade_in, fade_out }, frame) {
  const since = begin === null ? Infinity : frame - begin;
  const left = end === null ? Infinity : end - frame;
  if (since < 0 || left < 0) return 0;
  return Math.min(1, fade_in ? since / fade_in : 1, fade_out ? left / fade_out : 1);
}
