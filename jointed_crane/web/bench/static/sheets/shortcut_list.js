// The list of all shortcuts, by group.

import { keyText } from "../commands/commands.js";

export function drawShortcuts(list, commands) {
  for (const name of [...new Set(commands.map((command) => command.group))]) {
    const block = document.createElement("div");
    block.className = "mb-3 break-inside-avoid";
    const title = document.createElement("h3");
    title.className = "mb-1 font-bold";
    title.textContent = name;
    const words = document.createElement("dl");
    words.className = "shortcuts";
    for (const command of commands.filter((one) => one.group === name && one.keys.length)) {
      const key = document.createElement("dt");
      key.textContent = keyText(command);
      const text = document.createElement("dd");
      text.textContent = command.words;
      words.append(key, text);
    }
    block.append(title, words);
    list.append(block);
  }
}
