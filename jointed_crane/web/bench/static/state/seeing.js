// What is seen of motion beside the frame that is now: onion skin, the rest pose, arcs. The browser keeps it.

import { openAbove } from "../elements/popovers.js";

const NAME = "seeing-motion";

export class Seeing {
  onion = { isOn: false, before: 2, after: 2, every: 4, isPickedOnly: true };
  isRestSeen = false;
  areArcsSeen = false;
  #listeners = [];

  constructor() {
    try {
      const { onion, ...others } = JSON.parse(localStorage.getItem(NAME)) ?? {};
      Object.assign(this, others);
      Object.assign(this.onion, onion);
    } catch {
      // what was kept cannot be read: it is seen as at the beginning
    }
  }

  on(act) {
    this.#listeners.push(act);
  }
  /** Something is seen otherwise from now on. */
  changed() {
    const { onion, isRestSeen, areArcsSeen } = this;
    localStorage.setItem(NAME, JSON.stringify({ onion, isRestSeen, areArcsSeen }));
    for (const act of this.#listeners) act();
  }
}

/**
 * The menu of what is seen, and the acts of its switches.
 * @param {Bench} bench
 */
export function mountSeeing(button, menu, seeing, bench) {
  const fields = menu.querySelectorAll("[data-see]");
  const holderOf = (name) => (name in seeing.onion ? seeing.onion : seeing);

  function draw() {
    for (const field of fields) {
      const value = holderOf(field.dataset.see)[field.dataset.see];
      if (field.type === "checkbox") field.checked = value;
      else field.value = value;
    }
    const isOn = seeing.onion.isOn || seeing.isRestSeen || seeing.areArcsSeen;
    button.classList.toggle("border-lagoon", isOn);
    button.setAttribute("aria-pressed", isOn);
  }
  for (const field of fields)
    field.addEventListener("change", () => {
      const [low, high] = [Number(field.min), Number(field.max)];
      holderOf(field.dataset.see)[field.dataset.see] =
        field.type === "checkbox" ? field.checked : Math.min(Math.max(Math.round(Number(field.value)) || low, low), high);
      seeing.changed();
    });
  openAbove(button, menu);
  menu.addEventListener("keydown", (event) => event.stopPropagation());
  seeing.on(draw);
  draw();

  const toggled = (holder, name) => () => {
    holder[name] = !holder[name];
    if (holder[name]) bench.setMotion(true);
    seeing.changed();
  };
  return { onion: toggled(seeing.onion, "isOn"), rest: toggled(seeing, "isRestSeen"), arcs: toggled(seeing, "areArcsSeen") };
}
