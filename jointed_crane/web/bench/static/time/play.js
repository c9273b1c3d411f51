// Playing from baked motion: the whole scene, or the span that is picked.

import { get } from "../../api.js";
import { saying } from "../../notices.js";
import { openAbove } from "../elements/popovers.js";
import { Film } from "./film.js";
import { Pace } from "./pace.js";

const WORDS = { once: "Once", again: "Loop", "to and fro": "To and fro" };

/** @param {Bench} bench */
export function mountPlay(root, menu, bench, figures, drag) {
  const button = root.querySelector("[data-time=play]");
  const how = root.querySelector("[data-time=how]");
  const dropped = root.querySelector("[data-time=dropped]");
  const listeners = [];
  const pace = new Pace();
  let isStarting = false;
  let running = null;
  let request = 0; // the drawing of the next frame
  let film = null;

  /** The film of the scene as it is kept now, with the block around a frame; null where it cannot be had. */
  async function filmed() {
    const kept = await saying(() => get(`${bench.path}/pose?frame=${bench.frame}`));
    if (!kept) return null;
    // Where somebody else has changed the scene, show it as it is before it plays.
    if (kept.version !== bench.version) await saying(() => bench.load());
    if (film?.version !== bench.version) film = new Film(bench);
    return (await film.fetch(bench.frame)) ? film : null;
  }

  async function start() {
    if (running || isStarting) return;
    isStarting = true;
    try {
      await bench.work;
      if (!bench.isMotion) await bench.setMotion(true);
      const { first, last } = span(bench);
      if (bench.frame < first || bench.frame >= last) bench.frame = first;
      if (!(await filmed())) return;
    } finally {
      isStarting = false;
    }
    running = { course: pace.course(span(bench), bench.frame), time: performance.now() };
    dropped.textContent = "";
    drag.isPlaying = true;
    drag.redraw();
    bench.tell("playing");
    label();
    request = requestAnimationFrame(step);
  }

  function step(time) {
    if (!running) return;
    const { course } = running;
    const gone = course.after((Math.max(time - running.time, 0) / 1000) * bench.fps);
    running.time = Math.max(time, running.time);
    const frame = course.frameAt(gone);
    const shown = film.at(frame);
    // Where a block is still on its way, the clock waits for it.
    if (shown) {
      course.go(gone);
      if (frame !== running.frame) show(frame, shown);
      if (course.leftOut) dropped.textContent = `${course.leftOut} left out`;
      if (course.isOver(gone)) return stop();
    } else if (!running.isWaiting) wait(frame);
    request = requestAnimationFrame(step);
  }

  function show(frame, { part, painting, shapeOf }) {
    running.frame = bench.frame = frame;
    figures.drawBaked(film.ids, part, painting, shapeOf);
    for (const listener of listeners) listener(frame);
    const next = film.following(frame);
    if (next === running.next) return;
    running.next = next;
    film.fetch(next);
  }

  async function wait(frame) {
    const waiting = running;
    waiting.isWaiting = true;
    if (!(await film.fetch(frame)) && running === waiting) return stop();
    waiting.isWaiting = false;
  }

  function stop() {
    if (!running) return;
    cancelAnimationFrame(request);
    running = null;
    drag.isPlaying = false;
    label();
    bench.seek(bench.frame);
  }

  function label() {
    button.querySelector("[data-time=play-word]").textContent = running ? "Pause" : "Play";
    button.querySelector("path").setAttribute("d", running ? "M4 3h3v10H4zM9 3h3v10H9z" : "M4 2.5 13 8l-9 5.5z");
    button.setAttribute("aria-pressed", Boolean(running));
  }

  function labelPace() {
    how.textContent = WORDS[pace.ending] + (pace.speed === 1 ? "" : ` ${Math.round(pace.speed * 100)} %`);
    for (const field of menu.querySelectorAll("[data-pace]")) field.value = String(pace[field.dataset.pace]);
  }
  menu.addEventListener("change", ({ target }) => {
    const read = { ending: String, speed: Number, isEveryFrame: (value) => value === "true" };
    pace.set({ [target.dataset.pace]: read[target.dataset.pace](target.value) });
  });
  menu.addEventListener("keydown", (event) => event.stopPropagation());
  pace.on(labelPace);
  pace.on(() => {
    if (running) running.course = pace.course(span(bench), bench.frame);
  });
  openAbove(how, menu);
  labelPace();

  const toggle = () => (running ? stop() : start());
  button.addEventListener("click", toggle);
  bench.on("scene", () => running && stop());
  return {
    toggle,
    stop,
    onFrame: (listener) => listeners.push(listener),
    isPlaying: () => Boolean(running),
    toggleLoop: () => pace.set({ ending: pace.ending === "again" ? "once" : "again" }),
  };
}

/**
 * What is played: the span that is picked, or everything.
 * @param {Bench} bench
 */
function span(bench) {
  const { frame, until } = bench.markerPicked ?? {};
  const end = bench.stage.length - 1;
  const [first, last] =
    until === undefined || until === null ? [0, end] : [Math.min(Math.round(frame), end), Math.min(Math.round(until), end)];
  return { first, last };
}
