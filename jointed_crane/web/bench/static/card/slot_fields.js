// What of a part a table fills: a field for the name of each slot. The server refuses what no table could fill.

import { nameInput } from "../elements/fields.js";

/**
 * @param {HTMLElement} list
 * @param {Bench} bench
 */
export function mountSlotFields(list, bench) {
  function line(part, what) {
    const holder = document.createElement("div");
    holder.className = "flex items-center gap-1.5";
    const word = document.createElement("span");
    word.className = "w-14 shrink-0 text-small text-mute";
    word.textContent = what;
    const keep = (name) => bench.keep([{ edit: "name_slot", part: part.id, what, name }]).then((kept) => kept ?? draw());
    const look = "h-6 min-w-0 grow rounded-md border border-line bg-card px-1.5";
    const input = nameInput(part.slots[what] ?? "", `Slot for the ${what}`, look, keep);
    input.placeholder = "no slot";
    holder.append(word, input);
    return holder;
  }

  function draw() {
    const part = bench.part(bench.lead);
    list.parentElement.hidden = !whats(part).length;
    list.replaceChildren(...whats(part).map((what) => line(part, what)));
  }

  return draw;
}

/**
 * @param {any} part
 * @returns {("words" | "fill" | "stroke" | "drawing" | "picture" | "value")[]}
 */
function whats({ lever, drawings, kind }) {
  if (lever) return ["value"];
  if (!drawings.length || kind === "reference") return [];
  const forms = new Set(drawings.map(({ shape }) => shape?.form));
  const isDrawn = [...forms].some(Boolean);
  const all = { words: forms.has("text"), picture: true, fill: isDrawn, stroke: isDrawn, drawing: drawings.length > 1 };
  return /** @type {any} */ (Object.keys(all).filter((what) => all[what]));
}
