// Time: the ruler, the rows of keys of the picked parts, setting, moving and deleting keys, and their segments.

import { perFrame } from "../drawing.js";
import { Axis, ROW, RULER } from "./axis.js";
import { makeKeyActs } from "./key_acts.js";
import { makeKeyDrags } from "./key_drags.js";
import { makeRows } from "./rows.js";
import { makeRuler } from "./ruler.js";
import { makeStands } from "./stands.js";

export function mountTime(root, bench, play) {
  const area = root.querySelector("[data-time=area]");
  const picture = root.querySelector("[data-time=picture]");
  const find = (name) => root.querySelector(`[data-time=${name}]`);
  let isWhole = false;
  const axis = new Axis(bench);
  const { isPickedKey, pressKeys, pressStand, pickKeys, retime, cancel } = makeKeyDrags(root, bench, play, picture, axis);
  const drawRow = makeRows(bench, picture, axis, { isPickedKey, pressKeys, pickKeys });
  const drawStands = makeStands(bench, picture, axis, pressStand);
  const { drawRuler, drawNow, moveNow } = makeRuler(root, bench, picture, axis);

  function shownParts() {
    if (!isWhole) return bench.picked.filter((id) => bench.part(id));
    return bench.order.filter((id) => Object.keys(bench.part(id).channels).length).reverse();
  }

  function rows() {
    const found = [];
    for (const id of shownParts()) {
      const part = bench.part(id);
      found.push({ id, name: part.name, isHead: true, channels: Object.keys(part.channels) });
      if (!isWhole && part.footholds.length) found.push({ id, name: part.name, areStands: true });
      if (!isWhole) for (const channel of Object.keys(bench.channels)) if (part.channels[channel]) found.push({ id, channel, name: bench.channels[channel].label });
    }
    return found;
  }

  function draw() {
    if (!bench.stage) return;
    axis.width = area.clientWidth;
    const found = rows();
    const height = Math.max(RULER + found.length * ROW + 8, area.clientHeight);
    picture.setAttribute("width", axis.width);
    picture.setAttribute("height", height);
    picture.replaceChildren();
    drawRuler();
    found.forEach((row, index) => (row.areStands ? drawStands : drawRow)(row, RULER + index * ROW));
    find("empty").hidden = found.length > 0;
    drawNow(height);
    drawWords();
  }

  function drawWords() {
    root.classList.toggle("is-rest", !bench.isMotion);
    const some = bench.pickedKeys.length > 0;
    for (const button of root.querySelectorAll("[data-segment]")) {
      button.disabled = !some;
      const kinds = bench.pickedKeys.map((key) => bench.keyAt(key.part, key.channel, key.frame)?.kind);
      button.setAttribute("aria-pressed", some && kinds.every((kind) => kind === button.dataset.segment));
    }
    find("delete").disabled = !some && !bench.pickedStand;
    find("set").disabled = !bench.picked.length;
  }

  // Buttons

  const acts = {
    async setKeys() {
      const channels = new Set(bench.picked.flatMap((id) => Object.keys(bench.part(id).channels)));
      if (!channels.size) channels.add("turn.z");
      if (!bench.picked.length) return;
      await bench.seek(bench.frame);
      bench.keep([{ edit: "set_keys", parts: bench.picked, channels: [...channels], frame: bench.frame }]);
    },
    deleteKeys() {
      if (bench.pickedStand) return bench.keep([{ edit: "remove_foothold", ...bench.pickedStand }]);
      if (bench.pickedKeys.length) bench.keep([{ edit: "delete_keys", keys: bench.pickedKeys }]);
    },
    makeSegments(segment) {
      if (bench.pickedKeys.length) bench.keep([{ edit: "set_segment_kind", keys: bench.pickedKeys, segment }]);
    },
    moveKeys(by) {
      if (bench.pickedKeys.length) retime(bench.pickedKeys, by);
    },
    ...makeKeyActs(bench),
    cancel,
  };
  find("set").addEventListener("click", acts.setKeys);
  find("delete").addEventListener("click", acts.deleteKeys);
  for (const button of root.querySelectorAll("[data-segment]")) button.addEventListener("click", () => acts.makeSegments(button.dataset.segment));
  for (const button of root.querySelectorAll("[data-rows]"))
    button.addEventListener("click", () => {
      isWhole = button.dataset.rows === "whole";
      for (const other of root.querySelectorAll("[data-rows]")) other.setAttribute("aria-pressed", other === button);
      draw();
    });

  new ResizeObserver(draw).observe(area);
  const drawSoon = perFrame(draw);
  bench.on("scene picked state", drawSoon);
  let isPreview = false; // rows show what a preview moves, and show what is kept again when it is taken away
  bench.on("pose", () => {
    if (bench.over || isPreview) drawSoon();
    isPreview = Boolean(bench.over);
  });
  play.onFrame(moveNow);
  return acts;
}
