// Which piece of the stage a pane shows: pan, zoom, fit, and the way between screen and stage; with depth, where its view sees things.

import { clamp } from "../elements/drawing.js";

/** Where what is behind a camera is drawn: far off the screen, px. */
const NOWHERE = -1e6;
/** What a view sees before its first answer. */
const NOTHING = /** @type {any} */ ({ parts: {}, painting: [], stage: [[0, 0]] });

/**
 * Without depth, places in a view are places on the stage. With it they are px of what the server says the view sees, and edits
 * made in the view take it along (`through`).
 */
export class View {
  /**
   * @param {HTMLElement} element
   * @param {Bench} bench
   */
  constructor(element, bench, index = 0) {
    this.element = element;
    this.bench = bench;
    this.index = index;
    this.x = 0;
    this.y = 0;
    this.k = 1;
    this.isFitted = true;
    this.listeners = [];
  }

  on(act) {
    this.listeners.push(act);
  }
  #tell() {
    for (const act of this.listeners) act();
  }
  redraw() {
    this.#tell();
  }

  /**
   * What the view sees; null where the scene has no depth.
   * @returns {SeenView | null}
   */
  get sight() {
    return this.bench.isDeep ? (this.bench.seen?.[this.index] ?? NOTHING) : null;
  }
  get look() {
    return this.bench.looks[this.index];
  }
  /** Whether the stage is looked at straight from the front, as it is without depth. */
  get isFromFront() {
    if (!this.bench.isDeep || this.look.side === "front") return true;
    return this.look.side === "stage" && !this.bench.cameraOn;
  }
  /** Whether a drag goes round what is seen. */
  get canGoRound() {
    return this.bench.isDeep && this.look.side === "free";
  }
  /** Whether the pane is on the screen. */
  get isShown() {
    return this.bench.isDeep ? this.index < this.bench.count : this.index === 0;
  }
  /**
   * What an edit made here takes along, so that its places are those of this view.
   * @returns {{ view?: SeenView["view"] }}
   */
  get through() {
    const { sight } = this;
    return sight ? { view: sight.view } : {};
  }

  /** Show the whole stage with some room around it. */
  fit(stage = this.bench.stage) {
    const { width, height } = this.element.getBoundingClientRect();
    if (!width || !height) return;
    const isWhole = !this.sight || this.look.side === "stage"; // what is sent
    const [left, top, right, bottom] = isWhole ? [0, 0, stage.width, stage.height] : this.#seenStage(stage);
    this.k = Math.min((width - 48) / (right - left), (height - 48) / (bottom - top));
    this.x = (left + right) / 2 - width / this.k / 2;
    this.y = (top + bottom) / 2 - height / this.k / 2;
    this.isFitted = true;
    this.#tell();
  }

  /** The box that the stage is seen in; where it is seen along its plane, as deep as it is high. */
  #seenStage(stage) {
    const [xs, ys] = [0, 1].map((axis) => this.sight.stage.map((corner) => corner[axis]));
    const [left, right] = spread(Math.min(...xs), Math.max(...xs), stage.width);
    const [top, bottom] = spread(Math.min(...ys), Math.max(...ys), stage.height);
    return [left, top, right, bottom];
  }

  /** Show a box of the view, px, with room around it. */
  frame([left, top, right, bottom]) {
    const { width, height } = this.element.getBoundingClientRect();
    const [wide, high] = [Math.max(right - left, 20), Math.max(bottom - top, 20)];
    this.k = clamp(Math.min(width / wide, height / high) * 0.6, 0.02, 60);
    this.x = (left + right) / 2 - width / this.k / 2;
    this.y = (top + bottom) / 2 - height / this.k / 2;
    this.isFitted = false;
    this.#tell();
  }

  /**
   * @param {number} factor
   * @param {number[]} place
   */
  zoom(factor, [screenX, screenY]) {
    const [x, y] = this.toStage([screenX, screenY]);
    this.k = clamp(this.k * factor, 0.02, 60);
    this.x = x - screenX / this.k;
    this.y = y - screenY / this.k;
    this.isFitted = false;
    this.#tell();
  }

  pan(dx, dy) {
    this.x -= dx / this.k;
    this.y -= dy / this.k;
    this.isFitted = false;
    this.#tell();
  }

  /**
   * @param {number[]} place
   * @returns {[number, number]}
   */
  toStage([x, y]) {
    return [x / this.k + this.x, y / this.k + this.y];
  }
  /**
   * @param {number[]} place
   * @returns {[number, number]}
   */
  toScreen([x, y]) {
    return [(x - this.x) * this.k, (y - this.y) * this.k];
  }
  /**
   * Where an art point of a part is seen, px of the view.
   * @param {string} id
   * @param {number[]} point
   * @returns {[number, number]}
   */
  ofPart(id, point) {
    const { sight } = this;
    return sight ? through(sight.parts[id]?.map, point) : this.bench.onStage(id, point);
  }
  /** Where an art point of a part is seen on the screen. */
  screen(id, point) {
    return this.toScreen(this.ofPart(id, point));
  }
  /**
   * Where the pivot of a part is seen, px of the view.
   * @param {string} id
   */
  pivot(id) {
    return this.sight ? (this.sight.parts[id]?.pivot ?? [NOWHERE, NOWHERE]) : this.bench.poseOf(id).pivot;
  }
  /** Whether the pivot of a part lies before the view, and not where that stands. */
  isInSight(id) {
    return !this.sight || this.pivot(id).every((value) => Math.abs(value) < -NOWHERE);
  }
  /** Where a place on the plane of the stage is seen on the screen. */
  onStage(place) {
    return this.toScreen(this.sight ? through(this.sight.map, place) : place);
  }
  /**
   * A pointer event's place on the screen of the stage.
   * @param {{ clientX: number, clientY: number }} event
   * @returns {[number, number]}
   */
  at(event) {
    const box = this.element.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }
}

/**
 * A point through the rows x, y and w of a map.
 * @param {number[] | undefined} map
 * @param {number[]} point
 * @returns {[number, number]}
 */
export function through(map, [x, y, z = 0]) {
  if (!map) return [NOWHERE, NOWHERE];
  const w = map[8] * x + map[9] * y + map[10] * z + map[11];
  if (w <= 1e-6) return [NOWHERE, NOWHERE];
  return [(map[0] * x + map[1] * y + map[2] * z + map[3]) / w, (map[4] * x + map[5] * y + map[6] * z + map[7]) / w];
}

/**
 * A map as CSS writes it, of points in the plane of the art.
 * @param {number[]} map
 */
export function cssOf(map) {
  const [a, b, , c, d, e, , f, g, h, , i] = map;
  if (g === 0 && h === 0) return `matrix(${[a, d, b, e, c, f].map((value) => value / i).join(",")})`;
  return `matrix3d(${[a, d, 0, g, b, e, 0, h, 0, 0, 1, 0, c, f, 0, i].join(",")})`;
}

/** Two ends at least a third as far apart as something else is long. */
function spread(low, high, length) {
  const [middle, half] = [(low + high) / 2, Math.max(high - low, length / 3) / 2];
  return [middle - half, middle + half];
}
