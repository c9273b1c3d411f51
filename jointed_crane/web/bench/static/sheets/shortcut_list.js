// The list of all commands with their keys, by group: searched by words or by a key, and each key can be changed.

import { allow } from "../elements/fields.js";
import { saying } from "../../notices.js";
import { keyOf, keyText } from "../commands/commands.js";

/** @param {import("../commands/keys.js").Keys} keys */
export function mountShortcuts(dialog, keys) {
  const list = new ShortcutList(dialog, keys);
  return () => list.open();
}

class ShortcutList {
  /** @param {import("../commands/keys.js").Keys} keys */
  constructor(dialog, keys) {
    this.dialog = dialog;
    this.keys = keys;
    this.listening = null; // the command whose next key is waited for
    dialog.addEventListener("keydown", (event) => this.listening && this.#hear(event), true);
    dialog.addEventListener("cancel", (event) => this.listening && event.preventDefault());
    this.#find("search").addEventListener("input", () => this.#draw());
    this.#find("reset").addEventListener("click", async () => {
      await saying(() => keys.reset());
      this.#draw();
      this.#say("All keys are as they came.");
    });
  }

  #find(name) {
    return this.dialog.querySelector(`[data-keys=${name}]`);
  }
  #say(text) {
    this.#find("words").textContent = text;
  }

  open() {
    this.#find("search").value = "";
    this.#listen(null);
    this.dialog.showModal();
    this.#find("all").scrollTop = 0;
    this.#find("search").focus();
  }

  #draw() {
    const wanted = this.#find("search").value.toLowerCase().split(/\s+/).filter(Boolean);
    const result = this.keys.commands.filter((command) => {
      const text = `${command.words} ${command.group} ${keyText(command)}`.toLowerCase();
      return wanted.every((word) => text.includes(word));
    });
    const groups = Map.groupBy(result, ({ group }) => group);
    this.#find("list").replaceChildren(...[...groups].map(([name, commands]) => this.#block(name, commands)));
    if (!result.length) this.#find("list").textContent = "No command has these words.";
    allow(this.#find("reset"), this.keys.areChanged, "All keys are as they were at first");
  }

  #block(name, commands) {
    const made = document.createElement("div");
    made.className = "mb-3 break-inside-avoid";
    const title = document.createElement("h3");
    title.className = "mb-1 font-bold";
    title.textContent = name;
    const rows = document.createElement("dl");
    rows.className = "shortcuts";
    for (const command of commands) {
      const [key, text] = [document.createElement("dt"), document.createElement("dd")];
      key.append(this.#button(command));
      text.textContent = command.words;
      rows.append(key, text);
    }
    made.append(title, rows);
    return made;
  }

  #button(command) {
    const made = document.createElement("button");
    made.type = "button";
    made.dataset.key = command.id;
    made.className = "key-button";
    made.textContent = this.listening === command ? "press a key" : keyText(command) || "no key";
    made.setAttribute("aria-label", `${made.textContent}: ${command.words}`);
    made.title = "Press to change it";
    made.addEventListener("click", () => this.#listen(command));
    return made;
  }

  #listen(command) {
    this.listening = command;
    this.#say(command ? `Press the key for “${command.words}”. Backspace takes its key away, Escape leaves it as it is.` : "");
    this.#draw();
    if (command) this.#focus(command);
  }
  #focus(command) {
    this.dialog.querySelector(`[data-key="${command.id}"]`)?.focus();
  }

  #hear(event) {
    event.preventDefault();
    event.stopPropagation();
    if (event.key === "Escape") return this.#listen(null);
    if (!["Shift", "Control", "Alt", "Meta"].includes(event.key)) this.#take(keyOf(event));
  }

  async #take(key) {
    const command = this.listening;
    const refusal = this.keys.refusal(key);
    if (refusal) return this.#say(refusal);
    this.listening = null;
    const loser = await saying(() => this.keys.set(command, key === "Backspace" ? null : key));
    this.#listen(null);
    this.#say(
      loser
        ? `“${loser.words}” was on that key and has ${keyText(loser) ? `${keyText(loser)} alone` : "none"} now.`
        : `“${command.words}” has ${keyText(command) || "no key"} now.`,
    );
    this.#focus(command);
  }
}
