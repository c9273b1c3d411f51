// The menu of a part, the sheet of all commands and the list of shortcuts, all drawn from the one table of commands.

import { mountCommandSheet } from "./command_sheet.js";
import { mountPartMenu } from "./part_menu.js";
import { mountShortcuts } from "./shortcut_list.js";

/** @param {import("../commands/keys.js").Keys} keys */
export function mountCommands(root, keys) {
  const { commands } = keys;
  const find = (name) => root.querySelector(`[data-bench=${name}]`);
  const run = (id) => commands.find((command) => command.id === id).run();
  const openSheet = mountCommandSheet(find("commands"), commands, run);
  return { ...mountPartMenu(find("menu"), commands, run), openSheet, openShortcuts: mountShortcuts(find("help"), keys) };
}
