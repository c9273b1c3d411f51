// Baked motion of one version of the scene, fetched block by block, so that films of any length play.

import { get, getBytes } from "../../api.js";
import { saying } from "../../notices.js";

const POSES_OF_A_BLOCK = 25_000; // of one part at one frame; 1 MB as float32
const MOST_BLOCKS = 64;

export class Film {
  #blocks = new Map();

  /** @param {Bench} bench */
  constructor(bench) {
    this.path = bench.path;
    this.version = bench.version;
    this.frames = bench.stage.length;
    this.ids = [...bench.order];
    this.areShaped = this.ids.some((id) => Object.keys(bench.part(id).channels).some((name) => bench.channel(name).moves === "shape"));
    this.isReordered = this.ids.some((id) => bench.part(id).channels.order);
    this.size = Math.max(Math.floor(POSES_OF_A_BLOCK / Math.max(this.ids.length, 1)), 24);
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
    const answer = await saying(() => getBytes(`${this.path}/motion?from=${first}&to=${last}`));
    const shaped = this.areShaped && answer ? await saying(() => get(`${this.path}/motion/shapes?from=${first}&to=${last}`)) : null;
    if (answer?.version !== this.version || (this.areShaped && shaped?.version !== this.version)) {
      this.#blocks.delete(index);
      return null;
    }
    const block = { first, ...motionOf(answer.bytes), shapes: shaped?.shapes ?? {} };
    this.#blocks.get(index).block = block;
    for (const oldest of this.#blocks.keys()) if (this.#blocks.size > MOST_BLOCKS && oldest !== index) this.#blocks.delete(oldest);
    return block;
  }

  /** The parts at a frame as the stage draws them, by row, and their painting order where it moves; null while on its way. */
  at(frame) {
    const block = this.#blocks.get(Math.floor(frame / this.size))?.block;
    if (!block) return null;
    const { values, shapes, width, places } = block;
    const start = (row) => (row * block.frames + frame - block.first) * width;
    const part = (row) => {
      const at = start(row);
      return {
        matrix: places.matrix.map((place) => values[at + place]),
        opacity: values[at + places.opacity],
        drawing: values[at + places.drawing],
        shown: values[at + places.shown] >= 0.5,
      };
    };
    const order = (row) => values[start(row) + places.order];
    const painting = this.isReordered && [...this.ids.keys()].sort((a, b) => order(a) - order(b) || a - b).map((row) => this.ids[row]);
    return { part, painting: painting || undefined, shapeOf: (id) => shapes[id]?.[frame - block.first] ?? null };
  }

  /** The frame at which the block after this frame's begins; at the end the first. */
  following(frame) {
    const next = (Math.floor(frame / this.size) + 1) * this.size;
    return next < this.frames ? next : 0;
  }
}

/** A block of baked motion: its head says how many frames it has, and what the columns of its numbers are. */
function motionOf(bytes) {
  const length = new DataView(bytes).getUint32(0, true);
  const { frames, columns } = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length)));
  const places = Object.fromEntries(columns.map((name, place) => [name, place]));
  places.matrix = [..."abcdef"].map((name) => places[name]);
  return { frames, width: columns.length, places, values: new Float32Array(bytes, 4 + length) };
}
