// Playing at the scene's frame rate, from baked motion.

import { get } from "../../api.js";
import { saying } from "../../notices.js";
import { Film } from "./film.js";

export function mountPlay(root, bench, figures, drag) {
  const button = root.querySelector("[data-time=play]");
  const loop = root.querySelector("[data-time=loop]");
  const listeners = [];
  let isLooping = true;
  let isStarting = false;
  let running = null;
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
      if (bench.frame >= bench.stage.length - 1) bench.frame = 0;
      if (!(await filmed())) return;
    } finally {
      isStarting = false;
    }
    running = { position: bench.frame, time: performance.now() };
    drag.isPlaying = true;
    drag.redraw();
    bench.tell("playing");
    label();
    running.request = requestAnimationFrame(step);
  }

  function step(time) {
    if (!running) return;
    const gone = running.position + (Math.max(time - running.time, 0) / 1000) * bench.fps;
    running.time = Math.max(time, running.time);
    const isEnded = gone >= film.frames && !isLooping;
    const frame = isEnded ? film.frames - 1 : Math.floor(gone) % film.frames;
    const shown = film.at(frame);
    // Where a block is still on its way, the clock waits for it.
    if (shown) {
      running.position = isEnded ? frame : gone % film.frames;
      if (frame !== running.frame) show(frame, shown);
      if (isEnded) return stop();
    } else if (!running.isWaiting) wait(frame);
    running.request = requestAnimationFrame(step);
  }

  function show(frame, { part, painting }) {
    running.frame = bench.frame = frame;
    figures.drawBaked(film.ids, part, painting);
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
    cancelAnimationFrame(running.request);
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

  function setLoop(value) {
    isLooping = value;
    loop.setAttribute("aria-pressed", value);
    loop.classList.toggle("border-lagoon", value);
    loop.classList.toggle("text-mute", !value);
  }

  const toggle = () => (running ? stop() : start());
  button.addEventListener("click", toggle);
  loop.addEventListener("click", () => setLoop(!isLooping));
  bench.on("scene", () => running && stop());
  setLoop(true);
  return { toggle, stop, onFrame: (listener) => listeners.push(listener), isPlaying: () => Boolean(running), toggleLoop: () => setLoop(!isLooping) };
}
