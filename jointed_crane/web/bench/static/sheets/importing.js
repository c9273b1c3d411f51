// Bringing artwork in: the panel that shows every layer first, and the one for a file that has changed.

import { postFiles } from "../../reading.js";
import { notice, saying } from "../../notices.js";
import { thumbnail } from "../elements/drawing.js";

export function mountImport(dialog, acts) {
  const form = dialog.querySelector("form");
  const list = dialog.querySelector("[data-import=layers]");
  let files = [];
  let layers = [];
  let opened = [];

  function count() {
    const taken = layers.filter((layer) => layer.isTaken).length;
    dialog.querySelector("[data-import=words]").textContent = `${taken} of ${layers.length} layers become parts, each where it was drawn.`;
    dialog.querySelector("[data-import=keep]").disabled = taken === 0;
  }
  function draw() {
    list.replaceChildren(...layers.map((layer) => card(layer, count, open)));
    count();
  }
  /** Look into a layer: what is in it becomes parts of their own. */
  function open(path) {
    opened = [...opened, path];
    read();
  }
  for (const [name, isTaken] of [
    ["all", true],
    ["none", false],
  ])
    dialog.querySelector(`[data-import=${name}]`).addEventListener("click", () => {
      for (const layer of layers) layer.isTaken = isTaken;
      draw();
    });

  async function read() {
    const answer = await saying(() => postFiles("/api/artwork/layers", files, { opened: JSON.stringify(opened) }));
    if (!answer) return false;
    const known = new Map(layers.map((layer) => [layer.path, layer]));
    layers = answer.layers.map((layer) => ({ isTaken: true, registration: "", ...known.get(layer.path), ...layer }));
    for (const note of answer.notes) notice(note);
    draw();
    return true;
  }

  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const number = (name, initial) => (form.elements[name].value === "" ? initial : Number(form.elements[name].value));
    const choices = {
      opened,
      registration: form.elements.registration.value,
      scale: number("scale", 1),
      place: [number("x", 0), number("y", 0)],
      layers: Object.fromEntries(layers.map((layer) => [layer.path, { take: layer.isTaken, registration: layer.registration }])),
    };
    if (await acts.bringIn(files, choices)) dialog.close();
  });

  return async (given) => {
    files = given;
    layers = [];
    opened = [];
    form.reset();
    if (files.length && (await read())) dialog.showModal();
  };
}

/** A layer that may come in: its picture and name, whether it does, and where its registration is. */
function card(layer, count, open) {
  const row = document.createElement("li");
  row.className = "flex items-center gap-2.5 rounded-md border border-line-soft bg-tray p-2";
  const check = document.createElement("input");
  check.type = "checkbox";
  check.className = "size-4 shrink-0 accent-lagoon";
  check.checked = layer.isTaken;
  check.addEventListener("change", () => {
    layer.isTaken = check.checked;
    count();
  });
  const words = document.createElement("div");
  words.className = "min-w-0 grow";
  const name = document.createElement("div");
  name.className = "truncate font-semibold";
  name.textContent = layer.name;
  check.setAttribute("aria-label", `Take ${layer.name}`);
  words.append(name);
  const choices = document.createElement("div");
  choices.className = "flex items-center gap-1.5 text-small text-mute";
  choices.append(registrations(layer));
  if (layer.inner > 1) {
    const split = document.createElement("button");
    split.type = "button";
    split.className = "button button-small";
    split.textContent = `As ${layer.inner} parts`;
    split.addEventListener("click", () => {
      open(layer.path);
    });
    choices.append(split);
  }
  words.append(choices);
  row.append(check, thumbnail({ ...layer, registration: [0, 0] }, { class: "size-12 shrink-0 rounded border border-line bg-card" }), words);
  return row;
}

/** The list of places for a layer's registration. */
function registrations(layer) {
  const options = [
    ["", "as above"],
    ["zero", "drawing’s zero"],
    ["page", "page centre"],
    ["centre", "art centre"],
    ["lower middle", "lower middle"],
    ...layer.crosses.map((cross) => [`cross:${cross}`, `register cross “${cross}”`]),
  ];
  const registration = document.createElement("select");
  registration.className = "h-6 min-w-0 grow rounded-md border border-line bg-card px-1";
  registration.setAttribute("aria-label", `Registration of ${layer.name}`);
  registration.append(...options.map(([value, text]) => new Option(text, value)));
  registration.value = layer.registration;
  registration.addEventListener("change", () => {
    layer.registration = registration.value;
  });
  return registration;
}

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
    dialog.querySelector("button[value=keep]").disabled = !hasNews;
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
