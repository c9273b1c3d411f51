// Changes that set no keys yet: they are shown until they are keyed or dropped, while the switch says so.

import { post } from "../api.js";
import { notice } from "../notices.js";

export class Pending {
  edits = [];
  #shown = null; // what the server says they look like, at one version and frame

  /** `kinds` are the edits that set values and do nothing else. */
  constructor(bench, kinds) {
    this.bench = bench;
    this.kinds = new Set(kinds);
    bench.on("scene pose state", () => this.edits.length && !(bench.over && this.#isCurrent()) && this.#show());
  }

  /** Whether edits wait instead of being kept. */
  takes(edits) {
    const { bench } = this;
    return !bench.setsKeys && bench.isMotion && edits.every(({ edit }) => this.kinds.has(edit));
  }

  async add(edits) {
    const before = this.edits;
    this.edits = [...before, ...edits];
    this.#shown = null;
    const answer = await this.#ask();
    if (!answer) this.edits = before;
    this.bench.tell("pending");
    return answer;
  }
  /** Keep them all as one act. */
  async key() {
    const { edits } = this;
    this.#forget();
    const answer = await this.bench.keepNow(edits);
    if (!answer) this.edits = edits;
    this.bench.tell("pending");
    return answer;
  }
  drop() {
    this.#forget();
    this.bench.show(null);
    this.bench.tell("pending");
  }
  /** Take the last of them back; whether there was one. */
  takeBack() {
    if (!this.edits.length) return false;
    this.edits = this.edits.slice(0, -1);
    this.#shown = null;
    this.bench.show(null);
    this.bench.tell("pending");
    return true;
  }
  #forget() {
    this.edits = [];
    this.#shown = null;
  }

  #isCurrent() {
    return this.#shown?.version === this.bench.version && this.#shown.at === this.bench.at;
  }
  /** Lay them over what is kept again, where a preview or another frame took them away. */
  async #show() {
    if (this.#isCurrent()) return this.bench.show(this.#shown.answer);
    return this.isAsking ? null : this.#ask();
  }
  async #ask() {
    const { bench } = this;
    this.isAsking = true;
    try {
      await bench.work;
      const { version, at } = bench;
      const answer = await post(`${bench.path}/preview`, { version, frame: at, edits: this.edits });
      if (!this.edits.length) return answer;
      this.#shown = { version, at, answer };
      if (this.#isCurrent()) bench.show(answer);
      return answer;
    } catch (error) {
      if (error.status === undefined) throw error;
      notice(error.message, { isRefusal: true });
      if (error.status === 409) await bench.load();
      return null;
    } finally {
      this.isAsking = false;
      if (this.#shown && !this.#isCurrent()) this.#show(); // the frame has moved on meanwhile
    }
  }
}

/** The bar over the stage that says what is not kept, and the switch in the time panel. */
export function mountPending(bar, toggle, bench) {
  const find = (name) => bar.querySelector(`[data-pending=${name}]`);
  function draw() {
    const count = bench.pending.edits.length;
    bar.hidden = !count;
    find("words").textContent = count === 1 ? "1 change has no key yet" : `${count} changes have no keys yet`;
    toggle.setAttribute("aria-pressed", bench.setsKeys);
  }
  find("key").addEventListener("click", () => bench.pending.key());
  find("drop").addEventListener("click", () => bench.pending.drop());
  const act = () => {
    bench.setSetsKeys(!bench.setsKeys);
    notice(bench.setsKeys ? "Changes in Motion set keys again." : "Changes in Motion set no keys now. They are shown until you key them or drop them.");
  };
  toggle.addEventListener("click", act);
  bench.on("pending state", draw);
  draw();
  return act;
}
