// A file that has changed, brought in again.

import { allow } from "../elements/fields.js";
import { postFiles } from "../../reading.js";
import { notice, saying } from "../../notices.js";

const STATES = {
  changed: ["changed", "text-brass-ink"],
  new: ["new", "text-lagoon-ink"],
  gone: ["gone from the file; its part stays as it is", "text-coral-ink"],
  same: ["as it was", "text-mute"],
};

/** @param {Bench} bench */
export function mountUpdate(dialog, bench) {
  const form = dialog.querySelector("form");
  let file = null;

  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const fields = { version: bench.version, frame: bench.at ?? "rest", fit: form.elements.fit.value };
    const answer = await bench.keepWith(() => postFiles(`${bench.path}/artwork/update`, [file], fields));
    if (answer) {
      dialog.close();
      notice(answer.words);
    }
  });
  return async (given) => {
    if (!given) return;
    file = given;
    const answer = await saying(() => postFiles(`${bench.path}/artwork/compare`, [file]));
    if (!answer) return;
    const order = Object.keys(STATES);
    const count = (state) => answer.layers.filter((layer) => layer.state === state).length;
    const hasNews = count("changed") + count("new") > 0;
    const counts = `${count("changed")} changed, ${count("new")} new, ${count("gone")} gone, ${count("same")} as they were`;
    dialog.querySelector("[data-update=words]").textContent = hasNews
      ? `${file.name}: ${counts}. Pivots, eyelets, children and keys stay.`
      : `${file.name} shows nothing that has changed.`;
    allow(dialog.querySelector("button[value=keep]"), hasNews, "Nothing in it has changed");
    answer.layers.sort((one, other) => order.indexOf(one.state) - order.indexOf(other.state));
    dialog.querySelector("[data-update=list]").replaceChildren(
      ...answer.layers.map((layer) => {
        const row = document.createElement("li");
        row.className = "flex justify-between gap-4";
        const state = document.createElement("span");
        [state.textContent, state.className] = STATES[layer.state];
        row.append(layer.name, state);
        return row;
      }),
    );
    dialog.showModal();
  };
}
