// How a film is played: from where to where, how fast, what comes after its end, and whether frames may be left out.

const NAME = "playing";

export class Pace {
  ending = "again"; // "once", "again" or "to and fro"
  speed = 1;
  isEveryFrame = false; // rather slower than leaving frames out
  #listeners = [];

  constructor() {
    try {
      const { ending, speed, isEveryFrame } = JSON.parse(localStorage.getItem(NAME)) ?? {};
      Object.assign(this, { ending: ending ?? this.ending, speed: speed ?? 1, isEveryFrame: Boolean(isEveryFrame) });
    } catch {
      // what was kept cannot be read: it plays as at the beginning
    }
  }

  on(act) {
    this.#listeners.push(act);
  }
  set(changes) {
    Object.assign(this, changes);
    const { ending, speed, isEveryFrame } = this;
    localStorage.setItem(NAME, JSON.stringify({ ending, speed, isEveryFrame }));
    for (const act of this.#listeners) act();
  }

  /** The course of a span of frames, both included, that begins at a frame of it. */
  course({ first, last }, frame) {
    return new Course(this, first, last - first + 1, Math.min(Math.max(frame - first, 0), last - first));
  }
}

class Course {
  leftOut = 0;

  /**
   * @param {Pace} pace
   * @param {number} first
   * @param {number} length
   * @param {number} gone
   */
  constructor(pace, first, length, gone) {
    this.pace = pace;
    this.first = first;
    this.length = length;
    this.gone = gone;
  }

  /** Where it would be after so many more frames' time. */
  after(frames) {
    const next = this.gone + frames * this.pace.speed;
    return this.pace.isEveryFrame ? Math.min(next, Math.floor(this.gone) + 1) : next;
  }
  go(gone) {
    this.leftOut += Math.max(Math.floor(gone) - Math.floor(this.gone) - 1, 0);
    this.gone = gone;
  }
  /** The frame of the scene after so much of the course. */
  frameAt(gone) {
    const step = Math.floor(gone);
    if (this.pace.ending === "once" || this.length === 1) return this.first + Math.min(step, this.length - 1);
    if (this.pace.ending === "again") return this.first + (step % this.length);
    const round = step % (2 * this.length - 2);
    return this.first + (round < this.length ? round : 2 * this.length - 2 - round);
  }
  isOver(gone) {
    return this.pace.ending === "once" && gone >= this.length;
  }
}
