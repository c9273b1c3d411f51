// Time: the ruler, the rows of keys of the picked parts, setting, moving and deleting keys, and their segments.

import { perFrame, svg } from "../elements/drawing.js";
import { allow, arithmetic } from "../elements/fields.js";
import { Axis, NAMES, ROW, RULER } from "./axis.js";
import { makeCurves } from "./curves/curves.js";
import { makeHands } from "./keys/hands.js";
import { makeKeyActs } from "./keys/key_acts.js";
import { changedRows, keepingFocus, makeListed } from "./listed.js";
import { makePartActs } from "./keys/part_acts.js";
import { makeKeyDrags } from "./keys/key_drags.js";
import { makeKeyRows } from "./key_rows.js";
import { makeRuler } from "./ruler.js";
import { makeLooking } from "./looking.js";
import { mountShapes } from "./curves/segment_shapes.js";
import { makeCuts } from "./keys/cuts.js";
import { makeMarkers } from "./keys/markers.js";
import { makeStands } from "./keys/stands.js";

/** @param {Bench} bench */
export function mountTime(root, shapes, bench, play, sheets) {
  const area = root.querySelector("[data-time=area]");
  const picture = root.querySelector("[data-time=picture]");
  const find = (name) => root.querySelector(`[data-time=${name}]`);
  const look = { view: "keys" }; // "keys", "curves" or "speeds"
  const axis = new Axis(bench);
  // What lies on frames is cut off where the names of the rows begin.
  const field = svg("svg", { x: NAMES, overflow: "hidden" });
  const { isPickedKey, pressKeys, pressStand, pickKeys, retime } = makeKeyDrags({ root, bench, play, picture, field, axis });
  const markers = makeMarkers({ bench, play, picture, field, axis, opened: sheets.marker });
  const stands = makeStands(bench, picture, field, axis, { isPickedKey, pressStand });
  const hands = makeHands(bench, picture, field, axis, { isPickedKey, pressStand });
  const listed = makeListed(bench, find, { markers, cuts: makeCuts({ bench, play, picture, field, axis }), stands, hands }, () => draw());
  const drawRow = makeKeyRows(bench, picture, field, axis, { isPickedKey, pressKeys, pickKeys, fold: listed.fold });
  const { drawRuler, drawNow, moveNow } = makeRuler(root, bench, field, axis);
  const curves = makeCurves({ bench, picture, field, axis, view: () => look.view, redraw: () => drawSoon(), isPickedKey, pickKeys });

  const draw = () => bench.stage && area.clientWidth && keepingFocus(picture, drawAll);

  function drawAll() {
    axis.width = area.clientWidth;
    const result = look.view === "keys" ? listed.rows() : [];
    const height = Math.max(RULER + result.length * ROW + 8, area.clientHeight);
    for (const element of [picture, field]) element.setAttribute("height", height);
    picture.setAttribute("width", axis.width);
    field.setAttribute("width", axis.width - NAMES);
    field.setAttribute("viewBox", `${NAMES} 0 ${axis.width - NAMES} ${height}`);
    picture.replaceChildren(svg("rect", { width: axis.width, height: RULER, class: "fill-tray" }));
    field.replaceChildren();
    drawRuler();
    // Only rows that are looked at are drawn: a scene may have thousands.
    const [begin, end] = [area.scrollTop, area.scrollTop + area.clientHeight].map((y) => Math.floor((y - RULER) / ROW));
    for (const [index, row] of result.entries()) {
      if (index < begin - 1 || index > end + 1) continue;
      const y = RULER + index * ROW;
      if (row.draw) row.draw(y);
      else drawRow(row, y);
    }
    const count = look.view === "keys" ? result.length : curves.draw(height);
    sayEmpty(find("empty"), count, bench);
    picture.append(field);
    drawNow(height);
    drawButtons(root, find, bench);
  }

  // Buttons

  const acts = {
    moveKeys(by) {
      if (bench.pickedKeys.length) retime(bench.pickedKeys, by);
    },
    ...makeKeyActs(bench),
    ...makePartActs(bench),
    ...makeLooking({ root, bench, area, picture, axis, curves, look, draw }),
  };
  openedOnKeys(picture, mountShapes(root, shapes, bench, acts), { isPickedKey, pickKeys });
  mountButtons(root, find, acts, bench);
  for (const button of root.querySelectorAll("[data-rows]"))
    button.addEventListener("click", () => {
      for (const other of root.querySelectorAll("[data-rows]")) other.setAttribute("aria-pressed", other === button);
      listed.setWhole(button.dataset.rows === "whole");
    });

  find("filter").addEventListener("change", draw);
  const drawSoon = perFrame(draw);
  new ResizeObserver(draw).observe(area);
  area.addEventListener("scroll", drawSoon);
  bench.on("scene picked", curves.refresh);
  bench.on("scene picked state", drawSoon);
  let previewed = ""; // rows show what a preview changes of them, and show what is kept again when it is taken away
  bench.on("pose", () => {
    const now = look.view === "keys" ? changedRows(bench) : null;
    if (now === null ? bench.over || previewed : now !== previewed) drawSoon();
    previewed = now ?? (bench.over ? "curves" : "");
  });
  const follow = (frame) => (axis.show(frame) ? draw() : moveNow(frame));
  play.onFrame(follow);
  bench.on("state", () => bench.stage && axis.show(bench.frame));
  return acts;
}

/** What to do where there is nothing to see. */
function sayEmpty(element, count, bench) {
  element.hidden = count > 0;
  if (count) return;
  const lead = bench.part(bench.lead);
  const begin = lead ? `${lead.name} has no curves yet.` : "Pick a part to see its keys.";
  element.textContent = `${begin} In Motion, turning, moving or scaling it sets a key at this frame.`;
}

/** The other button on a key opens the menu of its easing; one that is not picked is picked by it. */
function openedOnKeys(picture, openAt, { isPickedKey, pickKeys }) {
  picture.addEventListener("contextmenu", (event) => {
    const keys = /** @type {any} */ (event.target).keys;
    if (!keys) return;
    event.preventDefault();
    if (!keys.every((key) => isPickedKey(key.part, key.channel, key.frame))) pickKeys(keys);
    openAt(event.clientX, event.clientY);
  });
}

/**
 * The counter is a field, too: pressed, it takes a frame.
 * @param {Bench} bench
 */
function mountCounter(find, bench) {
  const [counter, field] = [find("frame"), find("typed-frame")];
  const close = () => {
    field.hidden = true;
    counter.hidden = false;
  };
  counter.addEventListener("click", () => {
    field.value = String(bench.frame);
    counter.hidden = true;
    field.hidden = false;
    field.select();
  });
  field.addEventListener("keydown", (event) => {
    event.stopPropagation();
    const frame = arithmetic(field.value);
    if (event.key === "Enter" && frame !== null) bench.seek(frame);
    if (event.key === "Enter" || event.key === "Escape") close();
  });
  field.addEventListener("blur", close);
}

/** The buttons that set and delete keys and say how they go on. */
function mountButtons(root, find, acts, bench) {
  mountCounter(find, bench);
  find("set").addEventListener("click", acts.setKeys);
  find("delete").addEventListener("click", acts.deleteKeys);
  for (const button of root.querySelectorAll("[data-segment]"))
    button.addEventListener("click", () => acts.makeSegments(button.dataset.segment));
}

/**
 * @param {any} root
 * @param {any} find
 * @param {Bench} bench
 */
function drawButtons(root, find, bench) {
  root.classList.toggle("is-rest", !bench.isMotion);
  const some = bench.pickedKeys.length > 0;
  allow(find("shape"), some || bench.picked.length, "Pick a part or keys first: how keys are passed");
  for (const button of root.querySelectorAll("[data-segment]")) {
    allow(button, some, "Pick keys first: a click in the rows, or a box over some");
    const isOfKind = ({ part, channel, frame }) => bench.keyAt(part, channel, frame)?.kind === button.dataset.segment;
    button.setAttribute("aria-pressed", some && bench.pickedKeys.every(isOfKind));
  }
  find("delete").disabled = !some && !bench.pickedStand && !bench.pickedMarker;
  allow(find("set"), bench.picked.length, "Pick a part first: keys are set on what is picked");
}
