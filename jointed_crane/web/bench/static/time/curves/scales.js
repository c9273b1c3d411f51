// Where values lie in the curve view, px: each in a lane of its own or all over each other, alike in height or true to each other.

import { RULER } from "../axis.js";

const SPARE = 14;

export class Scales {
  areLanes = false;
  isTrue = false; // all by one measure, instead of each as high as there is room
  zoom = 1;
  shift = 0;

  /** Whether values can be said at the side: where they lie alike for all curves, or each curve has a place of its own. */
  get areSaid() {
    return this.areLanes || this.isTrue || this.of.size === 1;
  }

  constructor() {
    this.of = new Map();
  }

  /** Lay curves out: `ranges` are [low, high] by name; values of those that `grow down` grow downwards, as on the stage. */
  lay(ranges, height, growsDown) {
    const [top, bottom] = [RULER + SPARE, Math.max(height - SPARE, RULER + 3 * SPARE)];
    const lane = (bottom - top) / Math.max(ranges.size, 1);
    const lows = [...ranges.values()];
    const all = [Math.min(...lows.map(([low]) => low)), Math.max(...lows.map(([, high]) => high))];
    this.of.clear();
    let index = 0;
    for (const [name, range] of ranges) {
      const [low, high] = this.isTrue ? all : range;
      const isLane = this.areLanes;
      const from = isLane ? top + lane * index : top;
      const size = (isLane ? lane - 8 : bottom - top) * this.zoom;
      const span = high - low || 1;
      const isDown = growsDown(name);
      const k = ((high > low ? size : size / 2) / span) * (isDown ? -1 : 1);
      const lowest = from + (high > low ? (isDown ? 0 : size) : size / 2);
      this.of.set(name, {
        y: (value) => lowest - (value - low) * k + this.shift,
        k,
        from,
        to: from + size,
      });
      index += 1;
    }
  }

  /** Zoom about a height of the picture, px. */
  zoomBy(factor, at) {
    const zoom = Math.min(Math.max(this.zoom * factor, 0.2), 40);
    this.shift = at - RULER - SPARE - (at - RULER - SPARE - this.shift) * (zoom / this.zoom);
    this.zoom = zoom;
  }

  fit() {
    this.zoom = 1;
    this.shift = 0;
  }
}
