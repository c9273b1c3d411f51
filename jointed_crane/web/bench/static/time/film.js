// Baked motion of one version of the scene, fetched block by block, so that films of any length play.

import { get, getBytes } from "../../api.js";
import { saying } from "../../notices.js";
import { askedView } from "../state/looks.js";

const POSES_OF_A_BLOCK = 25_000; // of one part at one frame; 1 MB as float32
const MOST_BLOCKS = 64;
const MOST_PAINTED = 150; // frames of a block that views see, whose painting orders come along

export class Film {
  #blocks = new Map();

  /**
   * @param {Bench} bench
   * @param {Look | null} look the way of looking whose film it is, where the scene has depth
   */
  constructor(bench, look = null) {
    this.path = bench.path;
    this.look = look && encodeURIComponent(JSON.stringify(askedView(look)));
    this.version = bench.version;
    this.frames = bench.stage.length;
    this.ids = [...bench.order];
    this.areShaped = this.ids.some((id) => Object.keys(bench.part(id).channels).some((name) => bench.channel(name).moves === "shape"));
    this.isReordered = this.ids.some((id) => bench.part(id).channels.order);
    this.size = Math.min(Math.max(Math.floor(POSES_OF_A_BLOCK / Math.max(this.ids.length, 1)), 24), look ? MOST_PAINTED : Infinity);
  }

  /** Fetch the block around a frame; false where the server has another version, or did not answer. */
  async fetch(frame) {
    const index = Math.floor(frame / this.size);
    if (!this.#blocks.has(index)) this.#blocks.set(index, { coming: this.#fetched(index) });
    return (await this.#blocks.get(index).coming) !== null;
  }

  async #fetched(index) {
    const first = index * this.size;
    const last = Math.min(first + this.size, this.frames) - 1;
    const span = `from=${first}&to=${last}`;
    const answer = await saying(() =>
      getBytes(this.look ? `${this.path}/motion/seen?${span}&view=${this.look}` : `${this.path}/motion?${span}`),
    );
    const painted = this.look && answer ? await saying(() => get(`${this.path}/motion/painted?${span}&view=${this.look}`)) : null;
    const shaped = this.areShaped && answer ? await saying(() => get(`${this.path}/motion/shapes?from=${first}&to=${last}`)) : null;
    const isWhole = (isAsked, part) => !isAsked || part?.version === this.version;
    if (answer?.version !== this.version || !isWhole(this.areShaped, shaped) || !isWhole(this.look, painted)) {
      this.#blocks.delete(index);
      return null;
    }
    const block = { first, ...motionOf(answer.bytes), shapes: shaped?.shapes ?? {}, painted: painted && filledUp(painted.frames) };
    this.#blocks.get(index).block = block;
    for (const oldest of this.#blocks.keys()) if (this.#blocks.size > MOST_BLOCKS && oldest !== index) this.#blocks.delete(oldest);
    return block;
  }

  /** The parts at a frame as the stage draws them, by row, and their painting order where it moves; null while on its way. */
  at(frame) {
    const block = this.#blocks.get(Math.floor(frame / this.size))?.block;
    if (!block) return null;
    const { values, shapes, width, places, painted } = block;
    const start = (row) => (row * block.frames + frame - block.first) * width;
    const part = (row) => {
      const at = start(row);
      return {
        ...(painted ? { map: numbersAt(values, at, places.map) } : { matrix: numbersAt(values, at, places.matrix) }),
        opacity: values[at + places.opacity],
        drawing: values[at + places.drawing],
        shown: values[at + places.shown] >= 0.5,
      };
    };
    const shapeOf = (id) => shapes[id]?.[frame - block.first] ?? null;
    if (painted) return { part, painting: painted[frame - block.first], shapeOf };
    const order = (row) => values[start(row) + places.order];
    const painting = this.isReordered && [...this.ids.keys()].sort((a, b) => order(a) - order(b) || a - b).map((row) => this.ids[row]);
    return { part, painting: painting || undefined, shapeOf };
  }

  /** The frame at which the block after this frame's begins; at the end the first. */
  following(frame) {
    const next = (Math.floor(frame / this.size) + 1) * this.size;
    return next < this.frames ? next : 0;
  }
}

const numbersAt = (values, at, places) => places.map((place) => values[at + place]);

/** Painting orders of all frames, where those that are as before are left out. */
function filledUp(frames) {
  let last = [];
  return frames.map((frame) => {
    last = frame ?? last;
    return last;
  });
}

/** Films of several views side by side, played as one. */
export class Films {
  /** @param {Film[]} films */
  constructor(films) {
    this.films = films;
    this.size = Math.min(...films.map((film) => film.size));
  }
  async fetch(frame) {
    const answers = await Promise.all(this.films.map((film) => film.fetch(frame)));
    return answers.every(Boolean);
  }
  at(frame) {
    const result = this.films.map((film) => film.at(frame));
    return result.every(Boolean) ? result : null;
  }
  following(frame) {
    return this.films[0].following(frame);
  }
}

/** A block of baked motion: its head says how many frames it has, and what the columns of its numbers are. */
function motionOf(bytes) {
  const length = new DataView(bytes).getUint32(0, true);
  const { frames, columns } = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length)));
  const places = Object.fromEntries(columns.map((name, place) => [name, place]));
  places.matrix = [..."abcdef"].map((name) => places[name]);
  places.map = ["x", "y", "w"].flatMap((row) => ["x", "y", "z", "1"].map((column) => places[row + column]));
  return { frames, width: columns.length, places, values: new Float32Array(bytes, 4 + length) };
}
