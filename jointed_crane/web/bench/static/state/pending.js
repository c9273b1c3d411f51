// Changes that set no keys yet: they are shown until they are keyed or dropped, while the switch says so.

import { notice } from "../../notices.js";
import { leverWords } from "./levers.js";
import { freshId } from "./fresh_id.js";

export class Pending {
  edits = [];
  #shown = null; // what the server says they look like, at one version and frame

  /**
   * `kinds` are the edits that set values and do nothing else.
   * @param {Bench} bench
   */
  constructor(bench, kinds) {
    this.bench = bench;
    this.kinds = new Set(kinds);
    bench.on("scene pose state", () => this.edits.length && !(bench.over && this.#isCurrent()) && this.#show());
  }

  /** Whether edits wait instead of being kept. */
  takes(edits) {
    const { setsKeys, isMotion, teaching } = this.bench;
    if (!edits.every(({ edit }) => this.kinds.has(edit))) return false;
    // What a lever is taught waits as well, in Rest too; the lever itself is set at once.
    return teaching ? !edits.some(({ parts }) => parts?.includes(teaching.lever)) : !setsKeys && isMotion;
  }

  async add(edits) {
    this.edits = [...this.edits, ...edits];
    const answer = await this.#refreshed();
    this.bench.tell("pending");
    return answer;
  }
  /** Keep them all as one act: as keys, or as what a lever does where it stands now. */
  async key() {
    const { edits, bench } = this;
    this.#forget();
    const { teaching } = bench;
    const answer = await bench.keepNow(
      teaching ? [{ edit: "teach", ...teaching, id_prefix: `${freshId()}-`, edits, frame: bench.at }] : edits,
    );
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
    this.bench.show(null);
    this.bench.tell("pending");
    return true;
  }
  #forget() {
    this.edits = [];
    this.#shown = null;
  }

  #isCurrent() {
    return (
      this.#shown?.edits === this.edits &&
      this.#shown.version === this.bench.version &&
      this.#shown.at === this.bench.at &&
      this.#shown.looks === this.bench.looksKey
    );
  }
  /** Lay them over what is kept again, where a preview or another frame took them away. */
  #show() {
    return this.#isCurrent() ? this.bench.show(this.#shown.answer) : this.#refreshed();
  }
  /** What they look like now: one asking under way, and while they, the frame or the scene go on, the newest next. */
  #refreshed() {
    this.asking ??= this.#asked().finally(() => {
      this.asking = null;
    });
    return this.asking;
  }
  async #asked() {
    const { bench } = this;
    let answer = null;
    while (this.edits.length && !this.#isCurrent()) {
      await bench.work;
      const { version, at, looksKey: looks } = bench;
      const { edits } = this;
      try {
        answer = await bench.preview(edits);
      } catch (error) {
        if (!(await bench.refused(error)) && this.edits === edits)
          this.edits = this.#shown && this.#shown.edits !== edits ? this.#shown.edits : [];
        bench.tell("pending");
        continue;
      }
      this.#shown = { edits, version, at, looks, answer };
    }
    if (this.#isCurrent()) bench.show(this.#shown.answer);
    return answer;
  }
}

/**
 * A switch in the time panel; says what it has come to mean whenever it is turned.
 * @param {Bench} bench
 * @param {{ isOn: () => boolean, set: (isOn: boolean) => void, on: string, off: string }} what
 */
function mountSwitch(toggle, bench, what) {
  const { isOn, set, on, off } = what;
  const draw = () => toggle.setAttribute("aria-pressed", isOn());
  const act = () => {
    set(!isOn());
    notice(isOn() ? on : off);
  };
  toggle.addEventListener("click", act);
  bench.on("state", draw);
  draw();
  return act;
}

/**
 * The switch that says whether the first key of a channel keeps what came before it.
 * @param {Bench} bench
 */
export const mountKeepsBefore = (toggle, bench) =>
  mountSwitch(toggle, bench, {
    isOn: () => bench.keepsBefore,
    set: (isOn) => bench.setKeepsBefore(isOn),
    on: "The first key of a channel keeps what came before it, by one more key.",
    off: "The first key of a channel now holds for all frames before it, too.",
  });

/**
 * The bar over the stage that says what is not kept, and the switch in the time panel.
 * @param {Bench} bench
 */
export function mountPending(bar, toggle, bench) {
  const find = (name) => bar.querySelector(`[data-pending=${name}]`);
  function draw() {
    const count = bench.pending.edits.length;
    bar.hidden = !count;
    const { teaching } = bench;
    const lever = teaching && bench.part(teaching.lever);
    const taught = lever && `${lever.name} at ${leverWords(bench, lever.id)} is taught ${count === 1 ? "1 change" : `${count} changes`}`;
    find("words").textContent = taught || (count === 1 ? "1 change has no key yet" : `${count} changes have no keys yet`);
    find("key").textContent = lever ? "Keep that" : "Key it";
    find("key").title = lever ? "Make it what the lever does there" : "Set keys for what was changed";
  }
  find("key").addEventListener("click", () => bench.pending.key());
  find("drop").addEventListener("click", () => bench.pending.drop());
  bench.on("pending state pose", draw);
  draw();
  return mountSwitch(toggle, bench, {
    isOn: () => bench.setsKeys,
    set: (isOn) => bench.setSetsKeys(isOn),
    on: "Changes in Motion set keys again.",
    off: "Changes in Motion set no keys now. They are shown until you key or discard them.",
  });
}
