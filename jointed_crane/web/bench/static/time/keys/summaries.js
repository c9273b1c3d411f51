// The row that sums up many channels: all their keys together, each frame one mark that retimes what it shows.

import { readable, svg } from "../../elements/drawing.js";
import { stepsOf } from "../../state/facts.js";
import { swayLine } from "./beyond.js";

const CLOSEST = 7; // px between marks that a hand can tell apart

/**
 * @param {Bench} bench
 * @param {any} field
 * @param {Axis} axis
 */
export function makeSummaries(bench, field, axis, { isPickedKey, pressKeys }) {
  const summed = new Map();

  /** All keys of the parts and channels that a row sums up, by their frames; kept while none of the parts changes. */
  function keysByFrame({ id, owners }) {
    const parts = owners.map((owner) => bench.part(owner.id));
    const words = owners.map(({ channels }) => channels.join()).join(";");
    const known = summed.get(id);
    if (known?.words === words && known.parts.length === parts.length && parts.every((part, index) => part === known.parts[index]))
      return known.result;
    const result = counted(bench, owners);
    summed.set(id, { words, parts, result });
    return result;
  }

  function drawSummary(row, middle) {
    const result = keysByFrame(row);
    if (row.owners.some(({ id, channels }) => channels.some((name) => bench.part(id).channels[name].sway)))
      field.append(swayLine(axis, middle));
    if (!result.size) return;
    const frames = [...result.keys()];
    const [first, last] = [Math.min(...frames), Math.max(...frames)];
    field.append(
      svg("rect", {
        x: axis.xOf(first) - 4,
        y: middle - 4.5,
        width: Math.max(axis.xOf(last) - axis.xOf(first), 0) + 8,
        height: 9,
        rx: 4.5,
        class: "fill-brass-light",
        "fill-opacity": 0.7,
        "pointer-events": "none",
      }),
    );
    if (frames.length * CLOSEST > axis.width - axis.left) return drawClose(result, middle);
    for (const [frame, all] of result) {
      if (!axis.isSeen(frame)) continue;
      const isPicked = bench.pickedKeys.length && all.every((key) => isPickedKey(key.part, key.channel, key.frame));
      const mark = svg("rect", {
        x: axis.xOf(frame) - 3,
        y: middle - 6.5,
        width: 6,
        height: 13,
        rx: 3,
        class: isPicked ? "fill-coral cursor-ew-resize" : "fill-brass cursor-ew-resize",
      });
      mark.append(svg("title", {}, `${all.length} ${all.length === 1 ? "key" : "keys"} at frame ${readable(frame)}`));
      mark.keys = all;
      mark.addEventListener("pointerdown", (event) => pressKeys(event, all));
      field.append(mark);
    }
  }

  /** Marks that stand closer than a hand could tell apart: one picture, whose nearest frame is taken. */
  function drawClose(result, middle) {
    const frames = [...result.keys()].filter((frame) => axis.isSeen(frame)).sort((one, other) => one - other);
    const isPicked = (frame) =>
      bench.pickedKeys.length > 0 && result.get(frame).every((key) => isPickedKey(key.part, key.channel, key.frame));
    const marks = (some) => some.map((frame) => `M${axis.xOf(frame) - 3} ${middle - 6.5}h6v13h-6z`).join("");
    const picked = frames.filter(isPicked);
    const mark = svg("path", { d: marks(frames), class: "fill-brass cursor-ew-resize", "fill-opacity": 0.75 });
    mark.append(svg("title", {}, `Keys on ${frames.length} frames; look closer to see each`));
    mark.keysBetween = (left, right) =>
      frames.flatMap((frame) => (axis.xOf(frame) >= left - 3 && axis.xOf(frame) <= right + 3 ? result.get(frame) : []));
    mark.addEventListener("pointerdown", (event) => {
      const at = axis.frameOf(event.clientX - field.parentElement.getBoundingClientRect().left);
      const nearest = frames.reduce((best, frame) => (Math.abs(frame - at) < Math.abs(best - at) ? frame : best));
      pressKeys(event, result.get(nearest));
    });
    field.append(mark, svg("path", { d: marks(picked), class: "fill-coral", "pointer-events": "none" }));
  }

  return { drawSummary };
}

/**
 * All keys of parts and channels, and what takes hold of the parts from a frame on, by their frames.
 * @param {Bench} bench
 */
function counted(bench, owners) {
  const result = new Map();
  for (const { id, channels } of owners) {
    const part = bench.part(id);
    for (const channel of channels)
      for (const { frame } of part.channels[channel].keys) {
        if (!result.has(frame)) result.set(frame, []);
        result.get(frame).push({ part: id, channel, frame });
      }
    for (const { channel, frame } of stepsOf(part)) {
      if (!result.has(frame)) result.set(frame, []);
      result.get(frame).push({ part: id, channel, frame });
    }
  }
  return result;
}
