// Where frames lie in the time panel, px.

/** Room for the names of rows, the height of a row and of the ruler. */
export const NAMES = 156;
export const ROW = 30;
export const RULER = 26;

export class Axis {
  left = NAMES + 14;
  width = 800;

  constructor(bench) {
    this.bench = bench;
  }

  /** px of a frame. */
  get scale() {
    return (this.width - this.left - 26) / Math.max(this.bench.stage.length - 1, 1);
  }
  xOf(frame) {
    return this.left + frame * this.scale;
  }
  frameOf(x) {
    return (x - this.left) / this.scale;
  }
}
