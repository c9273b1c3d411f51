// The menu of a part: the commands that stand in it, by mouse and by keyboard.

import { commandItem, walk } from "./command_item.js";

export function mountPartMenu(menu, commands, run) {
  let from = null;

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

  menu.addEventListener("click", (event) => {
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

  function openMenu(x, y, element) {
    from = element;
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
