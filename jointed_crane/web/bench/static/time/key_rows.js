// The rows of keys: a row for each part with all of its keys together, and one for each of its channels.

import { clamp, onPressed, readable, svg } from "../elements/drawing.js";
import { ROW } from "./axis.js";
import { makeDrawingBlocks } from "./keys/drawing_blocks.js";
import { keysAgain, swayLine } from "./keys/beyond.js";
import { makeSummaries } from "./keys/summaries.js";

const KEY = { width: 9, height: 20 };

/**
 * What draws a row; `isPickedKey` says whether a key is picked, `pressKeys` begins to drag keys, `pickKeys` picks them,
 * `fold` folds the rows of a part or unfolds them.
 * @param {Bench} bench
 * @param {any} picture
 * @param {any} field
 * @param {Axis} axis
 */
export function makeKeyRows(bench, picture, field, axis, { isPickedKey, pressKeys, pickKeys, fold }) {
  const { drawSummary } = makeSummaries(bench, field, axis, { isPickedKey, pressKeys });
  const drawBlocks = makeDrawingBlocks(bench, field, axis);

  function drawRow(row, y) {
    const middle = y + ROW / 2;
    if (row.owners) {
      const isPicked = row.id && bench.picked.includes(row.id);
      picture.append(
        svg("rect", { y, width: axis.width, height: ROW, class: isPicked ? "fill-lagoon-light" : "fill-line-soft", "fill-opacity": 0.55 }),
      );
    }
    picture.append(svg("path", { d: `M0 ${y + ROW - 0.5}H${axis.width}`, class: "stroke-line-soft" }));
    const words = svg(
      "text",
      { x: row.owners ? 24 : 36, y: middle + 4.5, class: `fill-ink ${row.owners ? "font-bold" : ""} ${row.id ? "cursor-pointer" : ""}` },
      clipped(row.name, row.owners ? 18 : 17),
    );
    picture.append(words);
    if (row.isBeside) words.append(svg("title", {}, "It has a say in where the picked part is; a drag of that sets its keys"));
    if (row.owners) {
      if (row.id) {
        words.addEventListener("click", () => bench.pick([row.id]));
        picture.append(foldMark(row, middle, () => fold(row.id)));
      }
      return drawSummary(row, middle);
    }
    const channel = bench.part(row.id).channels[row.channel];
    const { keys, sway } = channel;
    words.append(svg("title", {}, `Pick all keys of ${row.name}`));
    words.addEventListener("click", (event) =>
      pickKeys(
        keys.map((key) => ({ part: row.id, channel: row.channel, frame: key.frame })),
        event.shiftKey,
      ),
    );
    if (row.channel === "drawing") drawBlocks(row.id, middle);
    else
      for (let index = 0; index + 1 < keys.length; index += 1) {
        const line = segment(axis, keys[index], keys[index + 1], middle);
        if (line) field.append(line);
      }
    field.append(...keysAgain(axis, channel, middle));
    if (sway) field.append(swayLine(axis, middle, sway));
    for (const key of keys) if (axis.isSeen(key.frame)) pill(row, key, middle);
  }

  function pill(row, key, middle) {
    const isNow = bench.isMotion && Math.abs(key.frame - bench.frame) < 1e-6;
    const isPicked = isPickedKey(row.id, row.channel, key.frame);
    const element = svg("rect", {
      x: axis.xOf(key.frame) - KEY.width / 2,
      y: middle - KEY.height / 2,
      width: KEY.width,
      height: KEY.height,
      rx: KEY.width / 2,
      class: `${isNow ? "fill-card" : "fill-brass"} ${isPicked ? "stroke-coral" : "stroke-brass"} cursor-ew-resize`,
      "stroke-width": isPicked ? 3 : 1.8,
      tabindex: 0,
      role: "button",
      "aria-label": `${row.name} key at frame ${readable(key.frame)}, value ${readable(key.value)}`,
      "data-key": `${row.channel}@${key.frame}`,
      "data-place": `${row.id} ${row.channel} ${key.frame}`,
    });
    element.append(svg("title", {}, `${row.name} ${readable(key.value)} at frame ${readable(key.frame)}; a drag retimes it`));
    const own = [{ part: row.id, channel: row.channel, frame: key.frame }];
    element.keys = own;
    element.addEventListener("pointerdown", (event) => pressKeys(event, own));
    onPressed(element, (event) => pickKeys(own, event.shiftKey));
    field.append(element);
  }

  return drawRow;
}

/** What folds the rows of a part or unfolds them. */
function foldMark(row, middle, fold) {
  const words = `${row.isFolded ? "Unfold" : "Fold"} the rows of ${row.name}`;
  const mark = svg("g", {
    tabindex: 0,
    role: "button",
    "aria-label": words,
    "aria-expanded": !row.isFolded,
    "data-place": `fold ${row.id}`,
    class: "cursor-pointer",
  });
  mark.append(
    svg("rect", { x: 2, y: middle - 11, width: 20, height: 22, fill: "transparent" }),
    svg("path", {
      d: row.isFolded ? `M10 ${middle - 4.5}l5 4.5-5 4.5` : `M7.5 ${middle - 2.5}l5 5 5-5`,
      fill: "none",
      class: "stroke-mute",
      "stroke-width": 1.8,
    }),
  );
  mark.append(svg("title", {}, words));
  mark.addEventListener("click", fold);
  onPressed(mark, fold);
  return mark;
}

/**
 * A swelling lens for eased, a thin straight line for straight, a low line that stops short with a tick for hold; null where
 * the keys stand too close.
 * @param {Axis} axis
 */
function segment(axis, from, to, middle) {
  const [a, b] = [axis.xOf(from.frame) + KEY.width / 2, axis.xOf(to.frame) - KEY.width / 2];
  if (b <= a) return null;
  const kinds = {
    eased: () =>
      svg("path", {
        d: `M${a} ${middle}Q${(a + b) / 2} ${middle - 7} ${b} ${middle}Q${(a + b) / 2} ${middle + 7} ${a} ${middle}Z`,
        class: "fill-brass-light",
      }),
    straight: () => svg("path", { d: `M${a} ${middle}H${b}`, class: "stroke-brass", "stroke-width": 1.6 }),
    hold: () =>
      svg("path", { d: `M${a} ${middle + 6}H${Math.max(b - 4, a)}v-6`, fill: "none", class: "stroke-brass", "stroke-width": 1.6 }),
  };
  const line = kinds[from.kind]();
  line.setAttribute("pointer-events", "none");
  return line;
}

function clipped(text, letters) {
  return text.length > letters ? `${text.slice(0, clamp(letters - 1, 1, letters))}…` : text;
}
