// Where frames lie in the time panel, px, and which stretch of them is seen.

import { clamp } from "../elements/drawing.js";

/** Room for the names of rows, the height of a row and of the ruler. */
export const NAMES = 156;
export const ROW = 30;
export const RULER = 26;

const FEWEST = 4; // frames that are seen at least

export class Axis {
  left = NAMES + 20;
  width = 800;
  first = 0;
  frames = Infinity; // so many are seen; all of them unless somebody looks closer

  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
  }

  get #whole() {
    return Math.max(this.bench.stage.length - 1, 1);
  }
  /** How many frames lie between the left and the right end. */
  get span() {
    return Math.min(this.frames, this.#whole);
  }
  /** px of a frame. */
  get scale() {
    return (this.width - this.left - 26) / this.span;
  }
  xOf(frame) {
    return this.left + (frame - this.begin) * this.scale;
  }
  frameOf(x) {
    return this.begin + (x - this.left) / this.scale;
  }
  /** The frame at the left end. */
  get begin() {
    return clamp(this.first, 0, this.#whole - this.span);
  }
  get isWhole() {
    return this.span === this.#whole;
  }

  /** Whether a frame lies in the stretch that is seen, or right beside it. */
  isSeen(frame) {
    const spare = 12 / this.scale;
    return frame >= this.begin - spare && frame <= this.begin + this.span + spare;
  }

  zoom(factor, x) {
    const at = this.frameOf(x);
    this.frames = clamp(this.span / factor, Math.min(FEWEST, this.#whole), this.#whole);
    this.first = at - (x - this.left) / this.scale;
    if (this.frames >= this.#whole) this.fit();
  }
  pan(dx) {
    this.first = this.begin - dx / this.scale;
  }
  fit() {
    this.first = 0;
    this.frames = Infinity;
  }
  /** Turn to the page that a frame is on; whether that was needed. */
  show(frame) {
    if (frame >= this.begin - 1e-6 && frame <= this.begin + this.span + 1e-6) return false;
    this.first = frame > this.begin ? frame : frame - this.span;
    return true;
  }
}
