// One row of the joint tree: a part with its picture, its states and its buttons.

import { thumbnail } from "../elements/drawing.js";

/**
 * What gives the element of a row, kept by part in `made` from draw to draw while nothing that it shows has changed.
 * @param {Bench} bench
 */
export function makeTreeRows(bench, template, made, folded) {
  function row({ id, depth, hasChildren }) {
    const part = bench.parts.get(id);
    const isFolded = folded.has(id);
    const { isolated } = bench.stage;
    const isFaint = part.hidden || (isolated.length > 0 && !isolated.includes(id));
    const known = made.get(id);
    const state = [part, depth, hasChildren, isFolded, isFaint];
    if (known?.state.every((value, index) => value === state[index])) return known.element;
    const element = known?.element ?? template.content.firstElementChild.cloneNode(true);
    made.set(id, { element, state });
    const within = (name) => element.querySelector(`[data-tree=${name}]`);
    element.dataset.row = id;
    element.style.setProperty("padding-left", `${8 + depth * 15}px`);
    element.setAttribute("aria-level", depth + 1);
    if (hasChildren) element.setAttribute("aria-expanded", !isFolded);
    else element.removeAttribute("aria-expanded");
    within("name").textContent = part.name;
    within("name").classList.toggle("italic", part.kind === "helper" || part.kind === "reference");
    within("pin").toggleAttribute("hidden", ["helper", "lever", "camera"].includes(part.kind) || part.drawings.length > 0);
    for (const kind of ["helper", "lever", "camera"]) within(kind).toggleAttribute("hidden", part.kind !== kind);
    const badge =
      part.kind === "reference"
        ? "reference"
        : part.drawings.length > 1
          ? String(part.drawings.length)
          : part.kind === "text"
            ? "text"
            : "";
    const [drawing] = part.drawings;
    if (known?.state[0].drawings[0] !== drawing)
      within("picture").replaceChildren(...(drawing ? [thumbnail(drawing, { width: 20, height: 20 })] : []));
    within("picture").hidden = !drawing;
    within("badge").textContent = badge;
    within("badge").hidden = !badge;
    within("badge").title = part.drawings.length > 1 ? `${part.drawings.length} drawings` : "";
    within("seat").toggleAttribute("hidden", !part.seat);
    element.dataset.tag = part.tag;
    const fold = within("fold");
    fold.classList.toggle("invisible", !hasChildren);
    fold.textContent = isFolded ? "+" : "–";
    toggle(within("hide"), part.hidden, `${part.hidden ? "Show" : "Hide"} ${part.name}`);
    toggle(within("lock"), part.locked, `${part.locked ? "Unlock" : "Lock"} ${part.name}`);
    element.classList.toggle("opacity-50", isFaint);
    return element;
  }

  return row;
}

function toggle(button, isOn, label) {
  button.classList.toggle("state-on", isOn);
  button.title = label;
  button.setAttribute("aria-label", label);
  button.setAttribute("aria-pressed", isOn);
}
