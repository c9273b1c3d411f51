// The rows of keys: a row for each part with all of its keys together, and one for each of its channels.

import { clamp, readable, svg } from "../drawing.js";
import { ROW } from "./axis.js";

const KEY = { width: 9, height: 20 };

/** What draws a row; `isPickedKey` says whether a key is picked, `pressKeys` begins to drag keys, `pickKeys` picks them. */
export function makeRows(bench, picture, field, axis, { isPickedKey, pressKeys, pickKeys }) {
  function drawRow(row, y) {
    const part = bench.part(row.id);
    const middle = y + ROW / 2;
    if (row.isHead) picture.append(svg("rect", { y, width: axis.width, height: ROW, class: "fill-line-soft", "fill-opacity": 0.55 }));
    picture.append(svg("path", { d: `M0 ${y + ROW - 0.5}H${axis.width}`, class: "stroke-line-soft" }));
    const words = svg("text", { x: row.isHead ? 14 : 30, y: middle + 4.5, class: row.isHead ? "fill-ink font-bold cursor-pointer" : "fill-ink cursor-pointer" }, clipped(row.name, row.isHead ? 20 : 18));
    picture.append(words);
    if (row.isHead) {
      words.addEventListener("click", () => bench.pick([row.id]));
      return drawSummary(part, row, middle);
    }
    const { keys } = part.channels[row.channel];
    words.append(svg("title", {}, `Pick all keys of ${row.name}`));
    words.addEventListener("click", (event) => pickKeys(keys.map((key) => ({ part: row.id, channel: row.channel, frame: key.frame })), event.shiftKey));
    for (let index = 0; index + 1 < keys.length; index += 1) segment(keys[index], keys[index + 1], middle);
    if (part.channels[row.channel].sway) field.append(swayLine(middle));
    for (const key of keys) pill(row, key, middle);
  }

  function drawSummary(part, row, middle) {
    const frames = [...new Set(row.channels.flatMap((name) => part.channels[name].keys.map((key) => key.frame)))].sort((a, b) => a - b);
    if (row.channels.some((name) => part.channels[name].sway)) field.append(swayLine(middle));
    if (!frames.length) return;
    const [first, last] = [frames[0], frames.at(-1)];
    field.append(svg("rect", { x: axis.xOf(first) - 4, y: middle - 4.5, width: Math.max(axis.xOf(last) - axis.xOf(first), 0) + 8, height: 9, rx: 4.5, class: "fill-brass-light", "fill-opacity": 0.7, "pointer-events": "none" }));
    for (const frame of frames) {
      const all = row.channels.flatMap((channel) => (part.channels[channel].keys.some((key) => key.frame === frame) ? [{ part: row.id, channel, frame }] : []));
      const isPicked = all.every((key) => isPickedKey(key.part, key.channel, key.frame));
      const mark = svg("rect", { x: axis.xOf(frame) - 3, y: middle - 6.5, width: 6, height: 13, rx: 3, class: isPicked ? "fill-coral cursor-ew-resize" : "fill-brass cursor-ew-resize" });
      mark.append(svg("title", {}, `${all.length} ${all.length === 1 ? "key" : "keys"} at frame ${readable(frame)}`));
      mark.keys = all;
      mark.addEventListener("pointerdown", (event) => pressKeys(event, all));
      field.append(mark);
    }
  }

  function swayLine(middle) {
    const points = [];
    for (let x = axis.left; x < axis.width - 20; x += 6) points.push(`${x} ${middle + 5 * Math.sin((x - axis.left) / 14)}`);
    return svg("path", { d: `M${points.join("L")}`, fill: "none", class: "stroke-brass", "stroke-opacity": 0.5 });
  }

  /** A swelling lens for eased, a thin straight line for straight, a low line that stops short with a tick for hold. */
  function segment(from, to, middle) {
    const [a, b] = [axis.xOf(from.frame) + KEY.width / 2, axis.xOf(to.frame) - KEY.width / 2];
    if (b <= a) return;
    const kinds = {
      eased: () => svg("path", { d: `M${a} ${middle}Q${(a + b) / 2} ${middle - 7} ${b} ${middle}Q${(a + b) / 2} ${middle + 7} ${a} ${middle}Z`, class: "fill-brass-light" }),
      straight: () => svg("path", { d: `M${a} ${middle}H${b}`, class: "stroke-brass", "stroke-width": 1.6 }),
      hold: () => svg("path", { d: `M${a} ${middle + 6}H${Math.max(b - 4, a)}v-6`, fill: "none", class: "stroke-brass", "stroke-width": 1.6 }),
    };
    const line = kinds[from.kind]();
    line.setAttribute("pointer-events", "none");
    field.append(line);
  }

  function pill(row, key, middle) {
    const isNow = bench.isMotion && Math.abs(key.frame - bench.frame) < 1e-6;
    const isPicked = isPickedKey(row.id, row.channel, key.frame);
    const element = svg("rect", {
      x: axis.xOf(key.frame) - KEY.width / 2, y: middle - KEY.height / 2, width: KEY.width, height: KEY.height, rx: KEY.width / 2,
      class: `${isNow ? "fill-card" : "fill-brass"} ${isPicked ? "stroke-coral" : "stroke-brass"} cursor-ew-resize`, "stroke-width": isPicked ? 3 : 1.8,
      tabindex: 0, role: "button", "aria-label": `${row.name} key at frame ${readable(key.frame)}, value ${readable(key.value)}`, "data-key": `${row.channel}@${key.frame}`,
    });
    element.append(svg("title", {}, `${row.name} ${readable(key.value)} at frame ${readable(key.frame)}; a drag retimes it`));
    const own = [{ part: row.id, channel: row.channel, frame: key.frame }];
    element.keys = own;
    element.addEventListener("pointerdown", (event) => pressKeys(event, own));
    element.addEventListener("keydown", (event) => {
      if (event.key !== "Enter" && event.key !== " ") return;
      event.preventDefault();
      event.stopPropagation();
      pickKeys(own, event.shiftKey);
    });
    field.append(element);
  }

  return drawRow;
}

function clipped(text, letters) {
  return text.length > letters ? `${text.slice(0, clamp(letters - 1, 1, letters))}…` : text;
}
