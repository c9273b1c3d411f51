// Playing at the scene's frame rate, from one block of baked motion.

import { getBytes } from "/static/api.js";
import { saying } from "/static/notices.js";

export function mountPlay(root, bench, figures, drag) {
  const button = root.querySelector("[data-time=play]");
  const loop = root.querySelector("[data-time=loop]");
  const listeners = [];
  let isLooping = true;
  let running = null;
  let block = null;

  async function baked() {
    if (block?.version === bench.version) return block;
    const bytes = await saying(() => getBytes(`${bench.path}/motion`));
    if (!bytes) return null;
    const [parts, frames, columns] = new Uint32Array(bytes, 0, 3);
    block = { version: bench.version, parts, frames, columns, values: new Float32Array(bytes, 12), ids: [...bench.order] };
    if (block.ids.some((id) => bench.part(id).channels.order)) block.painting = painter(block);
    return block;
  }

  /** Part ids from back to front at a frame, for scenes whose painting order moves. */
  const painter = ({ ids, frames, columns, values }) => (frame) => {
    const order = (row) => values[(row * frames + frame) * columns + 9];
    return [...ids.keys()].sort((a, b) => order(a) - order(b) || a - b).map((row) => ids[row]);
  };

  /** One part at one frame, as the stage draws it. */
  const reader = ({ frames, columns, values }, frame) => (row) => {
    const at = (row * frames + frame) * columns;
    return {
      matrix: Array.from(values.subarray(at, at + 6)),
      opacity: values[at + 6],
      drawing: values[at + 7],
      shown: values[at + 8] >= 0.5,
    };
  };

  async function start() {
    if (running) return;
    await bench.work;
    const film = await baked();
    if (!film) return;
    if (!bench.isMotion) await bench.setMotion(true);
    const first = bench.frame >= bench.stage.length - 1 ? 0 : bench.frame;
    const begin = performance.now();
    running = { film };
    drag.isPlaying = true;
    drag.redraw();
    label();
    const step = (time) => {
      if (!running) return;
      const gone = first + Math.floor(((Math.max(time - begin, 0)) / 1000) * bench.fps);
      const ended = gone >= film.frames && !isLooping;
      const frame = ended ? film.frames - 1 : gone % film.frames;
      if (frame !== running.frame) {
        running.frame = bench.frame = frame;
        figures.drawBaked(film.ids, reader(film, frame), film.painting?.(frame));
        for (const listener of listeners) listener(frame);
      }
      if (ended) return stop();
      running.request = requestAnimationFrame(step);
    };
    running.request = requestAnimationFrame(step);
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
