// The sheet of all commands: type a few letters, Enter runs the first one found.

import { commandItem, walk } from "./command_item.js";

export function mountCommandSheet(sheet, commands, run) {
  const field = sheet.querySelector("input");
  const list = sheet.querySelector("[data-list]");
  const matching = () => {
    const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
    return commands.filter(
      (command) => command.id !== "acts" && words.every((word) => `${command.words} ${command.group}`.toLowerCase().includes(word)),
    );
  };
  function groupOf(name) {
    const group = document.createElement("div");
    group.role = "group";
    group.ariaLabel = name;
    const title = document.createElement("div");
    title.className = "px-3 pb-1 pt-2 text-small font-bold text-mute";
    title.ariaHidden = "true";
    title.textContent = name;
    group.append(title);
    return group;
  }
  function drawList() {
    list.replaceChildren();
    let group = null;
    for (const command of matching()) {
      if (command.group !== group?.ariaLabel) {
        group = groupOf(command.group);
        list.append(group);
      }
      group.append(commandItem(command));
    }
    if (!list.children.length) list.textContent = "No command has these letters.";
  }
  const pickOne = (id) => {
    sheet.close();
    run(id);
  };
  field.addEventListener("input", drawList);
  sheet.addEventListener("keydown", (event) => {
    if (event.key === "Enter" && event.target === field) {
      event.preventDefault();
      const [first] = matching();
      if (first) pickOne(first.id);
    } else if (event.key === "ArrowDown" && event.target === field) {
      event.preventDefault();
      list.querySelector("button")?.focus();
    } else if (event.target !== field) walk(event, list, () => sheet.close());
  });
  list.addEventListener("click", (event) => {
    const act = event.target.closest("[data-act]")?.dataset.act;
    if (act) pickOne(act);
  });

  return function openSheet() {
    field.value = "";
    drawList();
    sheet.showModal();
    field.focus();
  };
}
