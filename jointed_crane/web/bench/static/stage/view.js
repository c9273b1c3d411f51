// Which piece of the stage is seen: pan, zoom, fit, and the way between screen and stage.

import { clamp } from "../elements/drawing.js";

export class View {
  constructor(element) {
    this.element = element;
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

  /** Show the whole stage with some room around it. */
  fit(stage) {
    const { width, height } = this.element.getBoundingClientRect();
    if (!width || !height) return;
    this.k = Math.min((width - 48) / stage.width, (height - 48) / stage.height);
    this.x = stage.width / 2 - width / this.k / 2;
    this.y = stage.height / 2 - height / this.k / 2;
    this.isFitted = true;
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
   * A pointer event's place on the screen of the stage.
   * @param {{ clientX: number, clientY: number }} event
   * @returns {[number, number]}
   */
  at(event) {
    const box = this.element.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  }
}
