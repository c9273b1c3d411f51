// One run of a film: it shows frame after frame in time, and waits where a block of it is still on its way.

export class Run {
  #request = 0; // the drawing of the next frame
  #time = 0;
  #frame = null;
  #next = null;
  #isWaiting = false;
  #isEnded = false;

  /**
   * `shown(frame, baked, leftOut)` draws a frame; `ended()` is called where the course is over or the film cannot be had.
   * @param {{ film: any, course: any, fps: number, shown: (frame: number, baked: any, leftOut: number) => void, ended: () => void }} parts
   */
  constructor({ film, course, fps, shown, ended }) {
    this.film = film;
    this.course = course;
    this.fps = fps;
    this.shown = shown;
    this.ended = ended;
  }

  begin() {
    this.#time = performance.now();
    this.#soon();
  }

  end() {
    this.#isEnded = true;
    cancelAnimationFrame(this.#request);
  }

  #soon() {
    this.#request = requestAnimationFrame((time) => this.#step(time));
  }

  #step(time) {
    const { course, film } = this;
    const gone = course.after((Math.max(time - this.#time, 0) / 1000) * this.fps);
    this.#time = Math.max(time, this.#time);
    const frame = course.frameAt(gone);
    const baked = film.at(frame);
    // Where a block is still on its way, the clock waits for it.
    if (baked) {
      course.go(gone);
      if (frame !== this.#frame) this.#show(frame, baked);
      if (course.isOver(gone)) return this.ended();
    } else if (!this.#isWaiting) this.#wait(frame);
    this.#soon();
  }

  #show(frame, baked) {
    this.#frame = frame;
    this.shown(frame, baked, this.course.leftOut);
    const next = this.film.following(frame);
    if (next === this.#next) return;
    this.#next = next;
    this.film.fetch(next);
  }

  async #wait(frame) {
    this.#isWaiting = true;
    const isThere = await this.film.fetch(frame);
    this.#isWaiting = false;
    if (!isThere && !this.#isEnded) this.ended();
  }
}
