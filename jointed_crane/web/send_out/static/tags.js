// The ways out as tags on strings: those that come with the app, and one's own.

import { post } from "../api.js";
import { notice, saying } from "../notices.js";

export class Tags {
  /** Draws the tags; `tie` is called with the one that is tied. */
  constructor(holder, known, tie) {
    this.holder = holder;
    this.known = known;
    this.onTie = tie;
    this.own = known.own;
    this.tied = null;
  }

  get all() {
    return [...this.own, ...this.known.tags];
  }

  /** Ties the tag at a place. */
  tie(place) {
    this.tied = this.all[place];
    this.draw();
    this.onTie(this.tied);
  }

  /** Takes others as one's own, and ties the one of this name. */
  keep(presets, name) {
    this.own = presets;
    this.tied = this.all.find((tag) => tag.name === name) ?? null;
    this.draw();
  }

  draw() {
    this.holder.replaceChildren(...this.all.map((tag) => this.element(tag)));
  }

  element(tag) {
    const line = document.createElement("div");
    line.className = "send-tag-line";
    const button = document.createElement("button");
    button.className = "send-tag";
    button.setAttribute("role", "radio");
    button.setAttribute("aria-checked", String(tag === this.tied));
    button.tabIndex = tag === this.tied || (!this.tied && tag === this.all[0]) ? 0 : -1;
    const name = document.createElement("b");
    name.textContent = tag.name;
    const use = document.createElement("span");
    use.textContent = this.wordsOf(tag);
    button.append(name, use);
    button.addEventListener("click", () => this.choose(tag));
    button.addEventListener("keydown", (event) => this.step(event, tag));
    line.append(button);
    if (this.own.includes(tag)) line.append(this.removal(tag));
    return line;
  }

  /** A way by its use; a tag with a name of its own by its way and what it chooses. */
  wordsOf(tag) {
    const { words, use } = this.known.ways[tag.way];
    if (tag.name === words) return use;
    const { see_through: isClear, height } = tag.choices;
    return [words, isClear && "see-through", height && `${height} px high`].filter(Boolean).join(", ");
  }

  removal(tag) {
    const button = document.createElement("button");
    button.className = "send-tag-remove";
    button.textContent = "×";
    button.title = `Take ${tag.name} away`;
    button.setAttribute("aria-label", button.title);
    button.addEventListener("click", async () => {
      const before = this.own;
      if (!(await this.put(this.own.filter((one) => one !== tag)))) return;
      notice(`${tag.name} is taken away.`, { action: { label: "Undo", run: () => this.put(before) } });
    });
    return button;
  }

  async put(presets) {
    const result = await saying(() => post("/api/presets", { presets }));
    if (result) this.keep(result.presets, this.tied?.name);
    return result;
  }

  choose(tag) {
    this.tied = tag;
    this.draw();
    this.holder.querySelector('[aria-checked="true"]').focus();
    this.onTie(tag);
  }

  step(event, tag) {
    const by = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    this.choose(this.all[(this.all.indexOf(tag) + by + this.all.length) % this.all.length]);
  }
}
