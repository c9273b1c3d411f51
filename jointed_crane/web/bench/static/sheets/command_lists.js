// The menu of a part, the sheet of all commands and the list of shortcuts, all drawn from the one table of commands.

import { mountCommandSheet } from "./command_sheet.js";
import { mountPartMenu } from "./part_menu.js";
import { drawShortcuts } from "./shortcut_list.js";

export function mountCommands(root, commands) {
  const find = (name) => root.querySelector(`[data-bench=${name}]`);
  const run = (id) => commands.find((command) => command.id === id).run();
  drawShortcuts(find("help").querySelector("[data-list]"), commands);
  const openSheet = mountCommandSheet(find("commands"), commands, run);
  return { ...mountPartMenu(find("menu"), commands, run), openSheet };
}
