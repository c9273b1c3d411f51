// A number in a field: typed with arithmetic, dragged by its unit, stepped by arrow keys, neutral by double-click.

import { notice } from "../../notices.js";
import { readable } from "./drawing.js";
import { follow } from "./following.js";

/** The value of "45/2", "-(3+4)*2" and the like, or null. Only numbers, + - * / and brackets are read. */
export function arithmetic(text) {
  const source = text
    .replaceAll("−", "-")
    .replaceAll(",", ".")
    .replace(/[°%]|px|deg/g, "")
    .replace(/\s+/g, "");
  const words = source.match(/\d+\.?\d*(?:e[-+]?\d+)?|\.\d+|[-+*/()]/gi) ?? [];
  if (!words.length || words.join("") !== source) return null;
  let at = 0;
  const take = (word) => words[at] === word && ++at;
  const atom = () => {
    if (take("-")) return -atom();
    if (take("+")) return atom();
    if (take("(")) {
      const inside = sum();
      return take(")") ? inside : NaN;
    }
    const number = Number(words[at++]);
    return number;
  };
  const term = () => {
    let value = atom();
    for (;;) {
      if (take("*")) value *= atom();
      else if (take("/")) value /= atom();
      else return value;
    }
  };
  const sum = () => {
    let value = term();
    for (;;) {
      if (take("+")) value += term();
      else if (take("-")) value -= term();
      else return value;
    }
  };
  const value = sum();
  return at === words.length && Number.isFinite(value) ? value : null;
}

/** A name in a list that is changed where it stands; `rename` gets what was typed. */
export function nameInput(name, label, look, rename) {
  const input = document.createElement("input");
  input.className = look;
  input.value = name;
  input.setAttribute("aria-label", label);
  input.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Enter") input.blur();
  });
  input.addEventListener("change", () => rename(input.value));
  return input;
}

/** A box that is ticked or not. */
export function ticked(label, isTicked, act) {
  const box = document.createElement("input");
  box.type = "checkbox";
  box.className = "size-4 shrink-0 accent-lagoon";
  box.checked = isTicked;
  box.setAttribute("aria-label", label);
  box.addEventListener("change", () => act(box.checked));
  return box;
}

/** A box with its words beside it. */
export function tickedWords(words, isTicked, act) {
  const label = document.createElement("label");
  label.className = "flex items-center gap-1";
  label.append(ticked(words, isTicked, act), words);
  return label;
}

/** A small button with a sign or a word, and what it does in words. */
export function smallButton(text, label, act) {
  const made = document.createElement("button");
  made.className = "button button-small px-1.5!";
  made.textContent = text;
  made.title = label;
  made.setAttribute("aria-label", label);
  made.addEventListener("click", act);
  return made;
}

/**
 * Whether a control may be used; where it may not, its title says why, and else what it said at first.
 * @param {HTMLButtonElement | HTMLSelectElement | HTMLInputElement} control
 */
export function allow(control, isAllowed, why) {
  control.dataset.title ??= control.title;
  control.disabled = !isAllowed;
  control.title = isAllowed ? control.dataset.title : why;
}

/**
 * Mounts one field (an element with class "field" around an input and a .unit).
 *
 * `spec`: read() gives the number on screen or null, edits(value) what setting it means, neutral the value of a
 * double-click, step the size of one arrow key, digits how many decimals are shown, isKeyed() whether it has a key here,
 * isOpen whether it may be empty, why what the tooltip says of it while it has no number, isShare whether "50%" is 0.5. edits(value, isPast): a number typed with "!" goes past a limit on purpose.
 * @param {Previewer} previewer
 */
export function mountField(element, spec, previewer) {
  const input = element.querySelector("input");
  const unit = element.querySelector(".unit");
  const { step = 1, digits = 2 } = spec;
  let isTyping = false;
  let wanted = null; // what has been set and not been answered yet, so that quick steps add up

  const value = () => wanted ?? spec.read();

  function draw() {
    const shown = value();
    element.classList.toggle("field-keyed", Boolean(spec.isKeyed?.()));
    element.classList.toggle("field-disabled", shown === null && !spec.isOpen);
    allow(input, shown !== null || spec.isOpen, spec.why ?? "");
    const text = shown === null ? "" : readable(shown, digits, spec.fixed);
    if (!isTyping && input.value !== text) input.value = text;
  }

  async function set(next, isPast = false) {
    wanted = next;
    draw();
    await previewer.keep(spec.edits(next, isPast));
    if (wanted === next) wanted = null;
    draw();
  }
  const size = (event) => step * (event.altKey ? 0.1 : event.shiftKey ? 10 : 1);

  input.addEventListener("focus", () => input.select());
  input.addEventListener("input", () => {
    isTyping = true;
  });
  input.addEventListener("change", () => {
    if (!isTyping) return; // Enter has set it already; leaving the field says so a second time
    isTyping = false;
    // A field that may stay empty (an open end of a range) is emptied by deleting what stands in it.
    if (spec.isOpen && !input.value.trim()) return void (spec.read() !== null && previewer.keep(spec.edits(null)));
    const isPast = input.value.includes("!");
    const typed = arithmetic(input.value.replaceAll("!", ""));
    const value = typed !== null && spec.isShare && input.value.includes("%") ? typed / 100 : typed;
    if (value !== null) return void set(value, isPast);
    const words = input.value.trim().slice(0, 30);
    draw();
    const stays = `${input.ariaLabel} stays ${input.value || "open"}`;
    if (words) notice(`"${words}" is not a number. ${stays}; type one like 12.5 or 45/2.`, { isRefusal: true });
  });
  input.addEventListener("blur", () => {
    isTyping = false;
    draw();
  });
  input.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Escape") {
      isTyping = false;
      draw();
      input.blur();
    } else if (event.key === "Enter") {
      input.dispatchEvent(new Event("change"));
      input.select();
    } else if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      event.preventDefault();
      set((value() ?? 0) + size(event) * (event.key === "ArrowUp" ? 1 : -1));
    } else if (event.key === "Tab" && isTyping) {
      input.dispatchEvent(new Event("change"));
    } else if (!isTyping && (event.ctrlKey || event.metaKey) && /^[zy]$/i.test(event.key)) {
      // While a number is typed, undo is the browser's; once it is set, it is the bench's, also for who stays in the field.
      event.preventDefault();
      void (event.shiftKey || /y/i.test(event.key) ? previewer.bench.redo() : previewer.bench.undo());
    }
  });
  element.addEventListener("dblclick", (event) => {
    if (spec.neutral === undefined || input.disabled || (event.target === input && isTyping)) return;
    set(spec.neutral);
  });

  unit.addEventListener("pointerdown", (event) => input.disabled || dragUnit(event, unit, spec, size, previewer));
  unit.title = "Drag to change; Alt finely, Shift coarsely; double-click for neutral";
  return draw;
}

/** A drag of a field's unit changes its number, by one `size(event)` for two px. */
function dragUnit(event, unit, spec, size, previewer) {
  let [x, value] = [event.clientX, spec.read() ?? 0];
  const edits = (_dx, _dy, now) => {
    value += (now.clientX - x) * size(now) * 0.5;
    x = now.clientX;
    return spec.edits(value, now.ctrlKey);
  };
  follow(event, { holder: unit, previewer, edits });
}
