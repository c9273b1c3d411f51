// Playing from baked motion: the whole scene, or the span that is picked.

import { get } from "../../api.js";
import { saying } from "../../notices.js";
import { openAbove } from "../elements/popovers.js";
import { Film, Films } from "./film.js";
import { Pace } from "./pace.js";
import { Run } from "./run.js";

const WORDS = { once: "Once", again: "Loop", "to and fro": "To and fro" };

/** @param {Bench} bench */
export function mountPlay(root, menu, bench, panes, drag) {
  const button = root.querySelector("[data-time=play]");
  const how = root.querySelector("[data-time=how]");
  const dropped = root.querySelector("[data-time=dropped]");
  const listeners = [];
  const pace = new Pace();
  let isStarting = false;
  /** @type {Run | null} */
  let running = null;
  let film = null;

  async function filmed() {
    film = await filmOf(bench, panes, film);
    return film && (await film.fetch(bench.frame)) ? film : null;
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
    running = new Run({ film, course: course(), fps: bench.fps, shown, ended: stop });
    dropped.textContent = "";
    drag.isPlaying = true;
    drag.redraw();
    bench.tell("playing");
    drawButton(button, Boolean(running));
    running.begin();
  }

  const course = () => pace.course(span(bench), bench.frame);

  /** A frame of the film, straight onto the figures. */
  function shown(frame, baked, leftOut) {
    bench.frame = frame;
    for (const [index, { flat, deep }] of panes.shown().entries()) {
      const { part, painting, shapeOf } = baked[index];
      (bench.isDeep ? deep : flat).drawBaked(film.films[index].ids, part, painting, shapeOf);
    }
    for (const listener of listeners) listener(frame);
    if (leftOut) dropped.textContent = `${leftOut} left out`;
  }

  function stop() {
    if (!running) return;
    running.end();
    running = null;
    drag.isPlaying = false;
    drawButton(button, Boolean(running));
    bench.seek(bench.frame);
  }

  mountPace(how, menu, pace);
  pace.on(() => {
    if (running) running.course = course();
  });

  const toggle = () => (running ? stop() : start());
  button.addEventListener("click", toggle);
  bench.on("scene looks", () => running && stop());
  return {
    toggle,
    stop,
    onFrame: (listener) => listeners.push(listener),
    isPlaying: () => Boolean(running),
    toggleLoop: () => pace.set({ ending: pace.ending === "again" ? "once" : "again" }),
  };
}

/** The button says what it does. */
function drawButton(button, isRunning) {
  button.querySelector("[data-time=play-word]").textContent = isRunning ? "Pause" : "Play";
  button.querySelector("path").setAttribute("d", isRunning ? "M4 3h3v10H4zM9 3h3v10H9z" : "M4 2.5 13 8l-9 5.5z");
  button.setAttribute("aria-pressed", isRunning);
}

/** The menu of how it is played, and the button that says it. */
function mountPace(how, menu, pace) {
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
  openAbove(how, menu);
  labelPace();
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

/**
 * The films of what panes show of the scene as it is kept now, those known where nothing has changed; null where they cannot be had.
 * @param {Bench} bench
 */
async function filmOf(bench, panes, known) {
  const kept = await saying(() => get(`${bench.path}/pose?frame=${bench.frame}`));
  if (!kept) return null;
  // Where somebody else has changed the scene, show it as it is before it plays.
  if (kept.version !== bench.version) await saying(() => bench.load());
  const key = JSON.stringify([bench.version, bench.asked.views]);
  if (known?.key === key) return known;
  const films = panes.shown().map(({ view }) => new Film(bench, bench.isDeep ? view.look : null));
  return Object.assign(new Films(films), { key });
}
