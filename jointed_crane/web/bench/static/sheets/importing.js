// Bringing artwork in: the panel that shows every file and layer first, and how they would lie on the stage.

import { allow } from "../elements/fields.js";
import { postFiles } from "../../reading.js";
import { notice, saying } from "../../notices.js";
import { artImage, svg, thumbnail } from "../elements/drawing.js";

const COMING = [
  ["part", "as one part"],
  ["helper", "layers under a helper"],
  ["layers", "layers loose"],
];

/**
 * @param {Bench} bench
 * @param {View} view
 * @returns {(files: File[], middle?: number[] | null) => Promise<void>} opens it; `middle` is where the middle of several
 *   files is to lie, px on the stage
 */
export function mountImport(dialog, bench, view, acts) {
  const panel = new ImportPanel(dialog, bench, mountShown(bench, view));
  panel.form.addEventListener("submit", async (event) => {
    event.preventDefault();
    if (await acts.bringIn(panel.given, panel.choices())) dialog.close();
  });
  return (files, middle = null) => panel.open(files, middle);
}

class ImportPanel {
  /** @param {Bench} bench */
  constructor(dialog, bench, shown) {
    this.dialog = dialog;
    this.form = dialog.querySelector("form");
    this.bench = bench;
    this.shown = shown;
    this.asked = 0;
    this.#begin([], null);
    for (const name of ["scale", "x", "y"]) this.form.elements[name].addEventListener("change", () => this.#read());
    for (const [name, take] of [
      ["all", true],
      ["none", false],
    ])
      this.#find(name).addEventListener("click", () => {
        for (const row of this.rows.values()) row.take = take;
        this.#draw();
      });
    this.#find("every").addEventListener("change", ({ target }) => this.#choose({ coming: target.value || null, files: {}, fused: [] }));
    this.#find("fuse").addEventListener("click", () => this.#fuse());
    dialog.addEventListener("close", () => shown.draw([]));
  }

  #find(name) {
    return this.dialog.querySelector(`[data-import=${name}]`);
  }

  #begin(files, middle) {
    /** @type {File[]} */
    this.given = files;
    this.result = { files: [], layers: [] };
    /** What is chosen of each layer, by its path. */
    this.rows = new Map();
    this.chosen = { opened: [], coming: null, files: {}, fused: [], middle };
  }

  async open(files, middle) {
    this.#begin(files, middle);
    this.form.reset();
    if (files.length && (await this.#read())) this.dialog.showModal();
  }

  choices() {
    const { elements } = this.form;
    const number = (name, initial) => (elements[name].value === "" ? initial : Number(elements[name].value));
    const rows = [...this.rows].map(([path, { take, registration, name }]) => [path, { take, registration, name }]);
    return {
      ...this.chosen,
      registration: elements.registration.value,
      scale: number("scale", 1),
      place: [number("x", 0), number("y", 0)],
      layers: Object.fromEntries(rows),
    };
  }

  async #read() {
    this.asked += 1;
    const turn = this.asked;
    const { width, height } = this.bench.stage;
    const fields = { choices: JSON.stringify(this.choices()), stage: JSON.stringify([width, height]) };
    const answer = await saying(() => postFiles("/api/artwork/layers", this.given, fields));
    if (!answer || turn !== this.asked) return false;
    const known = this.rows;
    const initial = { take: true, registration: "", name: "", isPicked: false };
    this.result = answer;
    this.rows = new Map(answer.layers.map(({ path }) => [path, { ...initial, ...known.get(path) }]));
    for (const note of answer.notes) notice(note);
    this.#find("every").hidden = answer.files.length < 2 || !answer.files.some(({ layers }) => layers > 1);
    this.#draw();
    return true;
  }

  #choose(changed) {
    this.chosen = { ...this.chosen, ...changed };
    this.#read();
  }

  #draw() {
    this.#find("layers").replaceChildren(...this.result.files.map((file, place) => this.#group(file, place)));
    this.#count();
  }

  #count() {
    const taken = this.result.layers.filter(({ path }) => this.rows.get(path).take);
    const words = this.result.files.length > 1 ? "beside each other" : "where it was drawn";
    this.#find("words").textContent = `${taken.length} of ${this.result.layers.length} come in, each ${words}.`;
    allow(this.#find("keep"), taken.length, "Tick what is to come in");
    const picked = this.#picked();
    const isOfOne = picked.every(({ file }) => file === picked[0].file);
    allow(this.#find("fuse"), picked.length > 1 && isOfOne, "Press the pictures of two layers or more of one file");
    this.shown.draw(taken);
  }

  #picked() {
    return this.result.layers.filter(({ path }) => this.rows.get(path).isPicked);
  }

  /** What is picked becomes one part. */
  #fuse() {
    const paths = this.#picked().flatMap(({ path }) => stepsOf(path));
    const others = this.chosen.fused.filter((known) => !known.some((path) => paths.includes(path)));
    this.#choose({ fused: [...others, paths] });
  }

  /** A file with its layers: folded where there are many files. */
  #group(file, place) {
    const layers = this.result.layers.filter((layer) => layer.file === place);
    const holder = document.createElement("details");
    holder.open = this.result.files.length === 1 || file.coming !== "part";
    holder.className = "rounded-md border border-line-soft bg-tray";
    const isAsked = file.layers > 1;
    const head = document.createElement("summary");
    head.className = `flex cursor-pointer items-center gap-2.5 p-2 ${isAsked ? "pr-46" : ""}`;
    const words = document.createElement("span");
    words.className = "min-w-0 grow truncate font-semibold";
    words.textContent = file.name;
    head.append(...(layers.length ? [picture(layers)] : []), words);
    const list = document.createElement("ul");
    list.className = "grid gap-1 px-2 pb-2";
    const acts = {
      count: () => this.#count(),
      read: () => this.#read(),
      open: (path) => this.#choose({ opened: [...this.chosen.opened, path] }),
      isAlone: layers.length === 1,
    };
    list.append(...layers.map((layer) => row(layer, this.rows.get(layer.path), acts)));
    holder.append(head, list);
    // Beside what folds, not in it: whoever hears the page hears one thing to press at a time.
    const group = document.createElement("div");
    group.className = "relative";
    group.append(holder, ...(isAsked ? [this.#coming(file, place)] : []));
    return group;
  }

  #coming(file, place) {
    const choice = select(COMING, file.coming, `How ${file.name} comes in`);
    choice.classList.add("absolute", "top-5", "right-2", "w-42");
    choice.addEventListener("change", () => {
      const fused = this.chosen.fused.filter(([path]) => !path.startsWith(`${place}/`));
      this.#choose({ files: { ...this.chosen.files, [place]: choice.value }, fused });
    });
    return choice;
  }
}

/**
 * What would come in, on the stage.
 * @param {Bench} bench
 * @param {View} view
 */
function mountShown(bench, view) {
  const nothing = document.querySelector("[data-bench=nothing]");
  const holder = svg("g", { "pointer-events": "none", "data-import": "shown", opacity: 0.85 });
  view.element.querySelector("[data-bench=over]").prepend(holder);
  view.on(() => holder.setAttribute("transform", `scale(${view.k}) translate(${-view.x} ${-view.y})`));
  return {
    draw(layers) {
      nothing.hidden = layers.length > 0 || bench.order.length > 0;
      holder.replaceChildren(
        ...layers.map(({ lay: [scale, x, y], ...layer }) =>
          svg("g", { transform: `translate(${x} ${y}) scale(${scale})` }, artImage({ ...layer, registration: [0, 0] })),
        ),
      );
    },
  };
}

function select(options, value, label) {
  const made = document.createElement("select");
  made.className = "h-6 min-w-0 rounded-md border border-line bg-card px-1";
  made.setAttribute("aria-label", label);
  made.append(...options.map(([key, text]) => new Option(text, key)));
  made.value = value;
  return made;
}

/** The picture of a whole file: its layers one over the other. */
function picture(layers) {
  const [lefts, tops, rights, bottoms] = [0, 1, 2, 3].map((side) => layers.map(({ bounds }) => bounds[side]));
  const bounds = [Math.min(...lefts), Math.min(...tops), Math.max(...rights), Math.max(...bottoms)];
  const look = { class: "size-12 shrink-0 rounded border border-line bg-card" };
  const [first, ...more] = layers.map((layer) => ({ ...layer, bounds, registration: [0, 0] }));
  const made = thumbnail(first, look);
  made.append(...more.map((layer) => artImage(layer)));
  return made;
}

/** A layer that may come in: its picture and name, whether it does, and where its registration is. */
function row(layer, chosen, { count, read, open, isAlone }) {
  const line = document.createElement("li");
  line.className = "flex items-center gap-2";
  const take = check(chosen.take, `Take ${layer.name}`);
  take.addEventListener("change", () => {
    chosen.take = take.checked;
    count();
  });
  const name = document.createElement("input");
  name.className = "text-field h-7! min-w-0 grow";
  name.value = chosen.name || layer.name;
  name.maxLength = 100;
  name.setAttribute("aria-label", `Name of ${layer.name}`);
  name.addEventListener("change", () => {
    chosen.name = name.value.trim() === layer.name ? "" : name.value.trim();
  });
  name.addEventListener("keydown", (event) => event.key === "Enter" && event.preventDefault());
  const registration = select(registrations(layer), chosen.registration, `Registration of ${layer.name}`);
  registration.classList.add("w-36", "shrink-0");
  registration.addEventListener("change", () => {
    chosen.registration = registration.value;
    if (registration.value.startsWith("cross:")) read();
  });
  line.append(take, picking(layer, chosen, count, isAlone), name, registration);
  if (layer.inner > 1) {
    const split = document.createElement("button");
    split.type = "button";
    split.className = "button button-small shrink-0";
    split.textContent = `As ${layer.inner} parts`;
    split.addEventListener("click", () => open(layer.path));
    line.append(split);
  }
  return line;
}

/** The picture of a layer, by which it is picked to be fused with others. */
function picking(layer, chosen, count, isAlone) {
  const button = document.createElement("button");
  button.type = "button";
  allow(button, !isAlone, "Its file has no other layer");
  button.className = "size-9 shrink-0 rounded border border-line bg-card aria-pressed:border-lagoon aria-pressed:bg-lagoon-light";
  button.setAttribute("aria-label", `Pick ${layer.name}, to fuse it with others`);
  button.setAttribute("aria-pressed", String(chosen.isPicked));
  button.append(thumbnail({ ...layer, registration: [0, 0] }, { class: "size-full" }));
  button.addEventListener("click", () => {
    chosen.isPicked = !chosen.isPicked;
    button.setAttribute("aria-pressed", String(chosen.isPicked));
    count();
  });
  return button;
}

/** The layers that are fused at a path: "0/3+4" is "0/3" and "0/4". */
function stepsOf(path) {
  const [file, within] = path.split("/");
  return within.split("+").map((step) => `${file}/${step}`);
}

function check(isChecked, label) {
  const made = document.createElement("input");
  made.type = "checkbox";
  made.className = "size-4 shrink-0 accent-lagoon";
  made.checked = isChecked;
  made.setAttribute("aria-label", label);
  return made;
}

/** The places that a layer's registration may have. */
const registrations = (layer) => [
  ["", "as above"],
  ["zero", "the drawing’s own"],
  ["page", "page centre"],
  ["centre", "art centre"],
  ["lower middle", "lower middle"],
  ...layer.crosses.map((cross) => [`cross:${cross}`, `register cross “${cross}”`]),
];
