// Time: the ruler, the rows of keys of the picked parts, setting, moving and deleting keys, and their segments.

import { clamp, perFrame, readable, svg } from "./drawing.js";
import { Previewer } from "./previewing.js";

const NAMES = 156;
const ROW = 30;
const RULER = 26;
const KEY = { width: 9, height: 20 };

export function mountTime(root, bench, play) {
  const previewer = new Previewer(bench);
  const area = root.querySelector("[data-time=area]");
  const picture = root.querySelector("[data-time=picture]");
  const find = (name) => root.querySelector(`[data-time=${name}]`);
  let isWhole = false;
  let drag = null;
  let width = 800;

  const left = NAMES + 14;
  const scale = () => (width - left - 26) / Math.max(bench.stage.length - 1, 1);
  const xOf = (frame) => left + frame * scale();
  const frameOf = (x) => (x - left) / scale();
  const isPickedKey = (part, channel, frame) => bench.pickedKeys.some((key) => key.part === part && key.channel === channel && Math.abs(key.frame - frame) < 1e-6);

  function shownParts() {
    if (!isWhole) return bench.picked.filter((id) => bench.part(id));
    return bench.order.filter((id) => Object.keys(bench.part(id).channels).length).reverse();
  }

  function rows() {
    const found = [];
    for (const id of shownParts()) {
      const part = bench.part(id);
      found.push({ id, name: part.name, isHead: true, channels: Object.keys(part.channels) });
      if (!isWhole) for (const channel of Object.keys(bench.channels)) if (part.channels[channel]) found.push({ id, channel, name: bench.channels[channel].label });
    }
    return found;
  }

  function draw() {
    if (!bench.stage) return;
    width = area.clientWidth;
    const found = rows();
    const height = Math.max(RULER + found.length * ROW + 8, area.clientHeight);
    picture.setAttribute("width", width);
    picture.setAttribute("height", height);
    picture.replaceChildren();
    drawRuler();
    found.forEach((row, index) => drawRow(row, RULER + index * ROW));
    find("empty").hidden = found.length > 0;
    drawNow(height);
    drawWords();
  }

  /** The ruler, kept from draw to draw while nothing that it shows has changed. */
  let ruler = null;
  let rulerOf = "";
  function drawRuler() {
    const { length } = bench.stage;
    const wanted = [length, width, bench.fps].join();
    if (wanted === rulerOf) return void picture.append(ruler);
    rulerOf = wanted;
    ruler = svg("g");
    const second = bench.fps;
    const enough = (frames) => frames * scale() >= 74;
    const steps = [1, 2, ...[0.25, 0.5, 1, 2, 5, 10, 30, 60].map((seconds) => Math.max(Math.round(seconds * second), 1))];
    const label = steps.find(enough) ?? second * 120;
    const tick = [1, 2, 4, 6, 12, 24, 48].find((frames) => frames * scale() >= 7) ?? 96;
    const ticks = (every, height) => {
      let path = "";
      for (let frame = 0; frame < length; frame += every) path += `M${xOf(Math.round(frame))} ${RULER - height}V${RULER}`;
      return path;
    };
    ruler.append(
      svg("rect", { width, height: RULER, class: "fill-tray", "data-ruler": "" }),
      svg("path", { d: ticks(tick, 6), class: "stroke-line", "pointer-events": "none" }),
      svg("path", { d: ticks(label, 11), class: "stroke-mute", "pointer-events": "none" }),
    );
    for (let frame = 0; frame < length; frame += label) {
      const at = Math.round(frame);
      const words = `${at} · ${readable(at / second, 2)} s`;
      if (xOf(at) + 5 + words.length * 6 < width) ruler.append(svg("text", { x: xOf(at) + 5, y: 14, class: "fill-mute text-[11.5px]", "pointer-events": "none" }, words));
    }
    ruler.append(svg("path", { d: `M0 ${RULER - 0.5}H${width}`, class: "stroke-line" }));
    picture.append(ruler);
  }

  function drawRow(row, y) {
    const part = bench.part(row.id);
    const middle = y + ROW / 2;
    if (row.isHead) picture.append(svg("rect", { y, width, height: ROW, class: "fill-line-soft", "fill-opacity": 0.55 }));
    picture.append(svg("path", { d: `M0 ${y + ROW - 0.5}H${width}`, class: "stroke-line-soft" }));
    const words = svg("text", { x: row.isHead ? 14 : 30, y: middle + 4.5, class: row.isHead ? "fill-ink font-bold cursor-pointer" : "fill-ink" }, clipped(row.name, row.isHead ? 20 : 18));
    if (row.isHead) words.addEventListener("click", () => bench.pick([row.id]));
    picture.append(words);
    if (row.isHead) return drawSummary(part, row, middle);
    const { keys } = part.channels[row.channel];
    for (let index = 0; index + 1 < keys.length; index += 1) segment(keys[index], keys[index + 1], middle);
    if (part.channels[row.channel].sway) picture.append(swayLine(middle));
    for (const key of keys) pill(row, key, middle);
  }

  function drawSummary(part, row, middle) {
    const frames = [...new Set(row.channels.flatMap((name) => part.channels[name].keys.map((key) => key.frame)))].sort((a, b) => a - b);
    if (row.channels.some((name) => part.channels[name].sway)) picture.append(swayLine(middle));
    if (!frames.length) return;
    const [first, last] = [frames[0], frames.at(-1)];
    picture.append(svg("rect", { x: xOf(first) - 4, y: middle - 4.5, width: Math.max(xOf(last) - xOf(first), 0) + 8, height: 9, rx: 4.5, class: "fill-brass-light", "fill-opacity": 0.7, "pointer-events": "none" }));
    for (const frame of frames) {
      const all = row.channels.flatMap((channel) => (part.channels[channel].keys.some((key) => key.frame === frame) ? [{ part: row.id, channel, frame }] : []));
      const isPicked = all.every((key) => isPickedKey(key.part, key.channel, key.frame));
      const mark = svg("rect", { x: xOf(frame) - 3, y: middle - 6.5, width: 6, height: 13, rx: 3, class: isPicked ? "fill-coral cursor-ew-resize" : "fill-brass cursor-ew-resize" });
      mark.append(svg("title", {}, `${all.length} ${all.length === 1 ? "key" : "keys"} at frame ${readable(frame)}`));
      mark.addEventListener("pointerdown", (event) => pressKeys(event, all));
      picture.append(mark);
    }
  }

  function swayLine(middle) {
    const points = [];
    for (let x = left; x < width - 20; x += 6) points.push(`${x} ${middle + 5 * Math.sin((x - left) / 14)}`);
    return svg("path", { d: `M${points.join("L")}`, fill: "none", class: "stroke-brass", "stroke-opacity": 0.5 });
  }

  /** A swelling lens for eased, a thin straight line for straight, a low line that stops short with a tick for hold. */
  function segment(from, to, middle) {
    const [a, b] = [xOf(from.frame) + KEY.width / 2, xOf(to.frame) - KEY.width / 2];
    if (b <= a) return;
    const kinds = {
      eased: () => svg("path", { d: `M${a} ${middle}Q${(a + b) / 2} ${middle - 7} ${b} ${middle}Q${(a + b) / 2} ${middle + 7} ${a} ${middle}Z`, class: "fill-brass-light" }),
      straight: () => svg("path", { d: `M${a} ${middle}H${b}`, class: "stroke-brass", "stroke-width": 1.6 }),
      hold: () => svg("path", { d: `M${a} ${middle + 6}H${Math.max(b - 4, a)}v-6`, fill: "none", class: "stroke-brass", "stroke-width": 1.6 }),
    };
    const line = kinds[from.kind]();
    line.setAttribute("pointer-events", "none");
    picture.append(line);
  }

  function pill(row, key, middle) {
    const isNow = bench.isMotion && Math.abs(key.frame - bench.frame) < 1e-6;
    const isPicked = isPickedKey(row.id, row.channel, key.frame);
    const element = svg("rect", {
      x: xOf(key.frame) - KEY.width / 2, y: middle - KEY.height / 2, width: KEY.width, height: KEY.height, rx: KEY.width / 2,
      class: `${isNow ? "fill-card" : "fill-brass"} ${isPicked ? "stroke-coral" : "stroke-brass"} cursor-ew-resize`, "stroke-width": isPicked ? 3 : 1.8,
      tabindex: 0, role: "button", "aria-label": `${row.name} key at frame ${readable(key.frame)}, value ${readable(key.value)}`, "data-key": `${row.channel}@${key.frame}`,
    });
    element.append(svg("title", {}, `${row.name} ${readable(key.value)} at frame ${readable(key.frame)}; a drag retimes it`));
    element.addEventListener("pointerdown", (event) => pressKeys(event, [{ part: row.id, channel: row.channel, frame: key.frame }]));
    element.addEventListener("keydown", (event) => {
      if (event.key !== "Enter" && event.key !== " ") return;
      event.preventDefault();
      event.stopPropagation();
      bench.pickKeys([{ part: row.id, channel: row.channel, frame: key.frame }]);
    });
    picture.append(element);
  }

  let now = null;
  function drawNow(height) {
    now = svg("g", { "pointer-events": "none" });
    now.append(svg("path", { d: `M0 ${RULER - 4}V${height}`, class: "stroke-coral", "stroke-width": 1.6 }), svg("rect", { x: -17, y: 2, width: 34, height: 19, rx: 4, class: "fill-coral-ink" }), svg("text", { y: 15.5, "text-anchor": "middle", class: "fill-on-lagoon text-[12px] font-bold" }));
    picture.append(now);
    moveNow(bench.frame);
  }
  function moveNow(frame) {
    if (!now) return;
    now.setAttribute("transform", `translate(${xOf(frame)} 0)`);
    now.setAttribute("opacity", bench.isMotion ? 1 : 0.35);
    now.lastChild.textContent = readable(frame, 0);
    find("frame").textContent = `f ${readable(frame, 0)}`;
    find("seconds").textContent = `${(frame / bench.fps).toFixed(2)} s of ${(bench.stage.length / bench.fps).toFixed(2)} s · ${readable(bench.fps, 3)} fps`;
  }

  function drawWords() {
    root.classList.toggle("is-rest", !bench.isMotion);
    const some = bench.pickedKeys.length > 0;
    for (const button of root.querySelectorAll("[data-segment]")) {
      button.disabled = !some;
      const kinds = bench.pickedKeys.map((key) => bench.keyAt(key.part, key.channel, key.frame)?.kind);
      button.setAttribute("aria-pressed", some && kinds.every((kind) => kind === button.dataset.segment));
    }
    find("delete").disabled = !some;
    find("set").disabled = !bench.picked.length;
  }

  // Ruler: the current frame follows the pointer

  picture.addEventListener("pointerdown", (event) => {
    if (event.button !== 0 || drag) return;
    const box = picture.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    if (y <= RULER || event.target.dataset.ruler !== undefined) {
      picture.setPointerCapture(event.pointerId);
      drag = { isSeek: true };
      play.stop();
      seekTo(x);
    } else if (x > NAMES && !event.shiftKey) bench.pickKeys([]);
  });
  const seekTo = (x) => bench.seek(frameOf(x));

  function pressKeys(event, keys) {
    event.stopPropagation();
    event.preventDefault();
    play.stop();
    const areAll = keys.every((key) => isPickedKey(key.part, key.channel, key.frame));
    const others = bench.pickedKeys.filter((key) => !keys.some((one) => one.part === key.part && one.channel === key.channel && one.frame === key.frame));
    if (event.shiftKey) return bench.pickKeys(areAll ? others : [...others, ...keys]);
    if (!areAll) bench.pickKeys(keys);
    picture.setPointerCapture(event.pointerId);
    drag = { from: event.clientX, keys: bench.pickedKeys, by: 0 };
  }

  picture.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (drag.isSeek) return seekTo(event.clientX - picture.getBoundingClientRect().left);
    const by = Math.round((event.clientX - drag.from) / scale());
    if (by === drag.by) return;
    drag.by = by;
    if (by) previewer.ask([{ edit: "move_keys", keys: drag.keys, by }]);
    else previewer.cancel();
    find("tag").textContent = by ? `${by > 0 ? "+" : "−"}${Math.abs(by)} frames` : "";
  });
  picture.addEventListener("pointerup", () => {
    if (!drag) return;
    const { keys, by, isSeek } = drag;
    drag = null;
    find("tag").textContent = "";
    if (isSeek || !by) return;
    retime(keys, by);
  });
  /** Moves keys in time; they stay picked where they come to stand. */
  async function retime(keys, by) {
    bench.pickedKeys = [];
    if (await previewer.keep([{ edit: "move_keys", keys, by }])) bench.pickKeys(keys.map((key) => ({ ...key, frame: key.frame + by })));
  }
  picture.addEventListener("pointercancel", () => cancel());
  function cancel() {
    if (!drag) return false;
    drag = null;
    previewer.cancel();
    find("tag").textContent = "";
    return true;
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
      if (bench.pickedKeys.length) bench.keep([{ edit: "delete_keys", keys: bench.pickedKeys }]);
    },
    makeSegments(segment) {
      if (bench.pickedKeys.length) bench.keep([{ edit: "set_segment_kind", keys: bench.pickedKeys, segment }]);
    },
    moveKeys(by) {
      if (bench.pickedKeys.length) retime(bench.pickedKeys, by);
    },
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
  bench.on("pose", () => bench.over && drawSoon());
  play.onFrame(moveNow);
  return acts;
}

function clipped(text, letters) {
  return text.length > letters ? `${text.slice(0, clamp(letters - 1, 1, letters))}…` : text;
}
