// One command as a button of a menu or a list, and walking through such a list by the arrow keys.

import { keyText } from "../commands/commands.js";

export function commandItem(command) {
  const button = document.createElement("button");
  button.setAttribute("role", "menuitem");
  button.dataset.act = command.id;
  button.classList.toggle("text-coral-ink", command.id === "delete");
  const words = document.createElement("span");
  words.textContent = command.words;
  const key = document.createElement("kbd");
  key.textContent = keyText(command);
  button.append(words, key);
  return button;
}

export function walk(event, holder, close) {
  const way = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (event.key !== "Tab") event.stopPropagation();
  if (event.key === "Escape") close();
  if (!way) return;
  event.preventDefault();
  const buttons = [...holder.querySelectorAll("button")];
  buttons[buttons.indexOf(holder.querySelector(":focus")) + way]?.focus();
}
