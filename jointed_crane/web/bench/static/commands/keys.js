// The keys of commands: those they come with, and those that the user has given them instead, kept with the library.

import { post } from "../../api.js";

/** Keys that have a meaning of their own, and such as come with others or not at all on some keyboards. */
const TAKEN = /^([1-9]|Escape|Tab|Enter|Dead|Process|Unidentified|Control|Shift|Alt|AltGraph|Meta|CapsLock|Arrow.*)$/;

export class Keys {
  /** `changed` has the keys of the commands whose keys were changed, by their ids. */
  constructor(commands, changed) {
    this.commands = commands;
    this.own = new Map(commands.map(({ id, keys }) => [id, keys]));
    this.changed = { ...changed };
    this.#give();
  }

  /** Give the commands their keys: one that was changed has its key before one that comes with it. */
  #give() {
    const taken = new Set(Object.values(this.changed).flat());
    for (const command of this.commands)
      command.keys = this.changed[command.id] ?? this.own.get(command.id).filter((key) => !taken.has(key));
    this.byKey = new Map(this.commands.flatMap((command) => command.keys.map((key) => [key, command])));
  }

  get areChanged() {
    return Object.keys(this.changed).length > 0;
  }

  /** Why a key cannot be a command's; nothing where it can. */
  refusal(key) {
    if (key === "Dead") return "On this keyboard that key waits for another; choose one that types by itself.";
    return TAKEN.test(key) ? "That key has a meaning of its own on the bench; choose another." : "";
  }

  /** Give a command a key, or none; answers the command that has lost it. */
  async set(command, key) {
    const loser = key ? this.byKey.get(key) : null;
    if (loser && loser !== command) this.changed[loser.id] = loser.keys.filter((other) => other !== key);
    this.changed[command.id] = key ? [key] : [];
    await this.#keep();
    return loser === command ? null : loser;
  }

  /** All as they came. */
  async reset() {
    this.changed = {};
    await this.#keep();
  }

  async #keep() {
    this.#give();
    await post("/api/keys", { keys: this.changed });
  }
}
