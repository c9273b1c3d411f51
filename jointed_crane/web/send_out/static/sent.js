// What is being sent and what was: how far it is, and what can be done with it.

import { get, post } from "../api.js";
import { notice, saying } from "../notices.js";
import { momentOf, sizeOf, timeOf } from "./words.js";

/** How often it is looked how far things have come, ms. */
const LOOK = 400;
/** Files that the page itself can show. */
const SHOWN = ["svg", "webm", "mp4", "webp", "gif", "apng", "still"];

export class Sent {
  constructor(part, known, path, preview) {
    this.list = part("list");
    this.none = part("none");
    this.path = path;
    this.preview = preview;
    this.rows = known.sendings;
    this.looking = 0;
    this.begun = new Map();
    this.draw();
    this.follow();
  }

  draw() {
    this.none.hidden = this.rows.length > 0;
    const here = new Map([...this.list.children].map((item) => [item.dataset.sending, item]));
    const items = this.rows.map((row) => {
      const key = JSON.stringify([row.state, row.done, row.of, row.size, row.fault]);
      const old = here.get(row.id);
      if (old?.dataset.key === key) return old;
      const item = this.element(row, old);
      item.dataset.key = key;
      return item;
    });
    const focused = document.activeElement?.closest?.("[data-sending]")?.dataset.sending;
    this.list.replaceChildren(...items);
    if (focused && !this.list.contains(document.activeElement)) this.list.querySelector(`[data-sending="${focused}"] button`)?.focus();
  }

  element(row, old) {
    const item = document.createElement("li");
    item.className = "send-item";
    item.dataset.sending = row.id;
    item.dataset.state = row.state;
    const side = document.createElement("div");
    side.className = "min-w-0";
    const name = document.createElement("b");
    name.className = "block truncate";
    name.textContent = row.file_name;
    name.title = row.file_name;
    const words = document.createElement("p");
    words.className = row.state === "failed" ? "text-small text-coral-ink" : "text-small text-mute";
    words.textContent = this.said(row);
    words.title = `The scene as of change ${row.scene_version}`;
    side.append(name, words);
    if (row.state === "working") side.append(this.bar(row));
    const acts = document.createElement("p");
    acts.className = "mt-0.5 flex flex-wrap gap-x-3";
    acts.append(...this.actsOf(row));
    side.append(acts);
    item.append(this.picture(row, old), side);
    if (row.state !== "waiting" && row.state !== "working") item.append(this.removal(row));
    return item;
  }

  said(row) {
    const { state, done, of, size, took, fault, scene_version: version } = row;
    if (state === "done") return `${momentOf(row.made_at)} · ${sizeOf(size)} in ${timeOf(took)} · change ${version}`;
    if (state === "failed") return fault;
    if (state === "waiting") return "waits for its turn";
    const what = row.rows ? "row" : "frame";
    if (state === "stopped") return of ? `stopped at ${what} ${done} of ${of}` : "stopped";
    return of ? `${what} ${done} of ${of}${this.left(row)}` : "begins";
  }

  /** How long it still takes, by how far it has come since it was first seen here. */
  left({ id, done, of }) {
    const first = this.begun.get(id) ?? { at: performance.now(), done };
    this.begun.set(id, first);
    if (done - first.done < 3) return "";
    const each = (performance.now() - first.at) / (done - first.done);
    return ` · ${timeOf((each * (of - done)) / 1000)} to go`;
  }

  bar({ done, of, file_name: name }) {
    const result = document.createElement("progress");
    result.className = "send-bar";
    result.setAttribute("aria-label", name);
    if (of) Object.assign(result, { max: of, value: done });
    return result;
  }

  /** The last frame that was drawn; a new one takes the place of the one before when it is there. */
  picture(row, old) {
    const shown = old?.querySelector(".send-thumb");
    const holder = shown ?? document.createElement("span");
    holder.className = "send-thumb";
    if (!shown) holder.textContent = row.file_name.split(".").pop();
    if (!row.of || !row.done || row.rows) return holder;
    if (shown && row.state === "working" && row.done - Number(holder.dataset.done) < 6) return holder;
    holder.dataset.done = String(row.done);
    const next = new Image();
    next.alt = "";
    next.addEventListener("load", () => holder.replaceChildren(next));
    next.src = `/api/sendings/${row.id}/picture?done=${row.done}`;
    return holder;
  }

  actsOf(row) {
    const address = `/api/sendings/${row.id}`;
    const act = (word, run, title = "") => {
      const button = document.createElement("button");
      button.className = "text-small font-semibold text-lagoon-ink hover:underline";
      button.textContent = word;
      button.title = title;
      button.addEventListener("click", run);
      return button;
    };
    const told = (end, body) => async () => {
      const result = await saying(() => post(`${address}/${end}`, body));
      if (result) this.put(result);
    };
    if (row.state === "waiting" || row.state === "working") return [act("Stop", told("stop"), "What is drawn is kept")];
    if (row.state !== "done") return [act("Go on", told("go-on"), "From where it stood")];
    const save = document.createElement("a");
    save.className = "text-small font-semibold text-lagoon-ink hover:underline";
    Object.assign(save, { href: `${address}/file`, textContent: "Save" });
    save.download = "";
    const shows = SHOWN.includes(row.way) && !row.rows ? [act("Show", () => this.preview.play(row, `${address}/file`))] : [];
    return [
      ...shows,
      save,
      act("Again", told("again", {}), "From the scene as it was then"),
      act("From now", told("again", { from_now: true }), "From the scene as it is now"),
    ];
  }

  removal(row) {
    const button = document.createElement("button");
    button.className = "send-remove";
    button.textContent = "×";
    button.title = "Delete it and its file";
    button.setAttribute("aria-label", `Delete ${row.file_name}`);
    button.addEventListener("click", () => this.remove(row));
    return button;
  }

  async remove(row) {
    if (!(await saying(() => post(`/api/sendings/${row.id}/delete`)))) return;
    this.look();
    const back = async () => {
      const result = await saying(() => post(`/api/sendings/${row.id}/restore`));
      if (result) this.put(result);
    };
    notice(`${row.file_name} is deleted.`, { action: { label: "Undo", run: back } });
  }

  put(row) {
    this.rows = [row, ...this.rows.filter(({ id }) => id !== row.id)].sort((one, other) => other.made_at.localeCompare(one.made_at));
    this.draw();
    this.follow();
  }

  async look() {
    const result = await saying(() => get(`${this.path}/sendings`));
    if (!result) return;
    this.rows = result.sendings;
    this.draw();
    this.follow();
  }

  follow() {
    clearTimeout(this.looking);
    if (this.rows.some(({ state }) => state === "working" || state === "waiting")) this.looking = setTimeout(() => this.look(), LOOK);
  }
}
