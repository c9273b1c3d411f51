// The menu of a part: what lies where it was opened, and the commands that stand in it, by mouse and by keyboard.

import { commandItem, walk } from "./command_item.js";

export function mountPartMenu(menu, commands, run) {
  let from = null;
  let pickHere = (_id) => {};
  const lying = document.createElement("div");
  lying.role = "group";
  lying.ariaLabel = "What lies here";
  menu.append(lying);

  let group = null;
  for (const command of commands.filter((one) => one.isInMenu)) {
    if (group && group !== command.group) menu.append(rule());
    group = command.group;
    menu.append(commandItem(command));
  }

  function rule() {
    const line = document.createElement("hr");
    line.className = "my-1 border-line-soft";
    return line;
  }

  /** Parts that lie over each other where the menu opens, to pick one of them. */
  function drawLying({ parts, picked, pick }) {
    pickHere = pick;
    lying.replaceChildren();
    if (parts.length < 2) return;
    for (const { id, name } of parts) {
      const item = document.createElement("button");
      item.role = "menuitemradio";
      item.ariaChecked = String(id === picked);
      item.dataset.here = id;
      item.textContent = name;
      lying.append(item);
    }
    lying.append(rule());
  }

  menu.addEventListener("click", (event) => {
    const here = event.target.closest("[data-here]")?.dataset.here;
    if (here) {
      closeMenu();
      return pickHere(here);
    }
    const act = event.target.closest("[data-act]")?.dataset.act;
    if (!act) return;
    closeMenu();
    run(act);
  });
  menu.addEventListener("keydown", (event) => walk(event, menu, closeMenu));
  // On its way down: what is pressed may keep the press to itself.
  document.addEventListener(
    "pointerdown",
    (event) => {
      if (!menu.hidden && !menu.contains(event.target)) menu.hidden = true;
    },
    true,
  );

  function openMenu(x, y, element, here = { parts: [], picked: null, pick: () => {} }) {
    from = element;
    drawLying(here);
    menu.hidden = false;
    const { width, height } = menu.getBoundingClientRect();
    menu.style.setProperty("left", `${Math.max(4, Math.min(x, innerWidth - width - 8))}px`);
    menu.style.setProperty("top", `${Math.max(4, Math.min(y, innerHeight - height - 8))}px`);
    menu.querySelector("button").focus();
  }
  function closeMenu() {
    if (menu.hidden) return false;
    menu.hidden = true;
    from?.focus();
    return true;
  }

  return { openMenu, closeMenu };
}
