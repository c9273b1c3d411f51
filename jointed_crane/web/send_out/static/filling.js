// A table whose rows fill the slots of the scene: typed here, or brought from a file. The row one is in is shown.

import { postForm } from "../api.js";
import { notice, saying } from "../notices.js";

/** What is typed is kept with the browser, so that it is there when the page is opened again. */
const KEPT = (scene) => `jointed-crane table of ${scene}`;

export class Filling {
  /** Draws the table; `changed` is called when a cell is, or another row is shown. */
  constructor(part, known, scene, changed) {
    this.part = part;
    this.known = known;
    this.scene = scene;
    this.changed = changed;
    this.holder = part("filling");
    this.table = part("table");
    this.columns = known.slots.map(({ name }) => name);
    this.rows = [];
    this.pictures = {};
    this.at = 0;
    this.recall();
    this.mountTools();
    this.draw();
  }

  recall() {
    const told = JSON.parse(localStorage.getItem(KEPT(this.scene)) ?? "null");
    if (!told) return;
    Object.assign(this, { rows: told.rows, pictures: told.pictures });
    this.columns = [...new Set([...this.columns, ...told.columns])].filter((name) => this.known.fillable.includes(name));
    this.part("table-names").value = told.names;
    this.part("table-fit").value = told.fit;
  }

  keep() {
    const { columns, rows, pictures } = this;
    localStorage.setItem(KEPT(this.scene), JSON.stringify({ columns, rows, pictures, ...this.told }));
  }

  mountTools() {
    const { part } = this;
    const put = () => this.put();
    part("table-names").addEventListener("change", put);
    part("table-fit").addEventListener("change", put);
    this.holder.addEventListener("toggle", () => this.changed());
    const add = part("table-column");
    add.addEventListener("change", () => {
      this.columns.push(add.value);
      this.put();
    });
    for (const [name, take] of /** @type {const} */ ([
      ["table-file", (files) => this.read(files[0])],
      ["table-pictures", (files) => this.takePictures(files)],
    ])) {
      const input = part(`${name}-input`);
      part(name).addEventListener("click", () => input.click());
      input.addEventListener("change", async () => {
        await take([...input.files]);
        input.value = "";
      });
    }
  }

  get told() {
    return { names: this.part("table-names").value.trim() || "{row}", fit: this.part("table-fit").value };
  }

  /** The rows in which something is typed. */
  get filled() {
    return this.rows.filter((row) => Object.values(row).some((cell) => cell.trim()));
  }

  /** The table as it is sent; null where rows are not what is sent. */
  get order() {
    return this.holder.open && this.filled.length ? this.of(this.filled) : null;
  }

  /** The row that is shown, as a table of its own; null where the scene is shown as it is. */
  get shown() {
    const row = this.rows[this.at];
    return this.holder.open && row && this.filled.includes(row) ? this.of([row]) : null;
  }

  of(rows) {
    const columns = (row) => Object.fromEntries(this.columns.map((name) => [name, row[name] ?? ""]));
    return { rows: rows.map(columns), pictures: this.pictures, ...this.told };
  }

  put() {
    this.keep();
    this.draw();
    this.changed();
  }

  async read(file) {
    const form = new FormData();
    form.append("files", file);
    const result = await saying(() => postForm("/api/tables", form));
    if (!result) return;
    const stray = result.columns.filter((name) => !this.known.fillable.includes(name));
    this.columns = result.columns.filter((name) => !stray.includes(name));
    this.rows = result.rows;
    this.at = 0;
    this.put();
    if (stray.length) notice(`${stray.join(", ")}: no slot and no part is called so. The other columns came in.`);
  }

  async takePictures(files) {
    for (const file of files) {
      const form = new FormData();
      form.append("files", file);
      const result = await saying(() => postForm("/api/drawings", form));
      if (result) this.pictures[file.name] = result.drawing;
    }
    this.put();
  }

  draw() {
    const rest = this.known.fillable.filter((name) => !this.columns.includes(name));
    const first = new Option("Add a column", "", true, true);
    first.disabled = true;
    this.part("table-column").replaceChildren(first, ...rest.map((name) => new Option(name)));
    const here = this.focusedCell();
    const rows = [...this.rows, {}];
    this.table.replaceChildren(this.head(), ...rows.map((row, place) => this.line(row, place)));
    this.part("table-none").hidden = this.columns.length > 0;
    this.table.hidden = !this.columns.length;
    if (here) this.focus(here.place, here.column);
  }

  focusedCell() {
    const cell = document.activeElement?.closest?.("[data-cell]");
    return cell && this.table.contains(cell) ? { place: Number(cell.dataset.row), column: cell.dataset.cell } : null;
  }

  focus(place, column) {
    const cells = /** @type {HTMLElement[]} */ ([...this.table.querySelectorAll(`[data-row="${place}"]`)]);
    cells.find((cell) => cell.dataset.cell === column)?.focus();
  }

  head() {
    const line = document.createElement("tr");
    line.append(document.createElement("td"));
    for (const name of this.columns) {
      const cell = document.createElement("th");
      cell.scope = "col";
      cell.textContent = name;
      line.append(cell);
    }
    return line;
  }

  line(row, place) {
    const line = document.createElement("tr");
    line.setAttribute("aria-current", String(place === this.at && place < this.rows.length));
    const number = document.createElement("th");
    number.scope = "row";
    number.textContent = place < this.rows.length ? String(place + 1) : "+";
    line.append(number, ...this.columns.map((name) => this.cell(row, place, name)));
    if (place < this.rows.length) line.append(this.removal(place));
    return line;
  }

  cell(row, place, name) {
    const holder = document.createElement("td");
    const options = this.known.slots.find((slot) => slot.name === name)?.options ?? [];
    const input = document.createElement(options.length ? "select" : "input");
    if (input instanceof HTMLSelectElement) input.append(new Option("as it is", ""), ...options.map((word) => new Option(word)));
    else input.setAttribute("list", "table-pictures-known");
    input.value = row[name] ?? "";
    Object.assign(input.dataset, { row: place, cell: name });
    input.setAttribute("aria-label", `${name}, row ${place + 1}`);
    input.addEventListener("focus", () => this.show(place));
    input.addEventListener("change", () => {
      if (place === this.rows.length) this.rows.push({});
      this.rows[place][name] = input.value;
      this.at = place;
      this.put();
    });
    input.addEventListener("keydown", (event) => this.step(/** @type {KeyboardEvent} */ (event), place, name));
    holder.append(input);
    return holder;
  }

  /** Up, down and Enter go from row to row; in a list of words up and down choose one. */
  step(event, place, name) {
    const isList = event.currentTarget instanceof HTMLSelectElement;
    const by = event.key === "Enter" ? 1 : isList ? 0 : ({ ArrowDown: 1, ArrowUp: -1 }[event.key] ?? 0);
    if (!by) return;
    event.preventDefault();
    event.currentTarget.blur();
    this.focus(Math.min(Math.max(place + by, 0), this.rows.length), name);
  }

  show(place) {
    if (place === this.at || place >= this.rows.length) return;
    this.at = place;
    for (const [number, line] of [...this.table.querySelectorAll("tr")].slice(1).entries())
      line.setAttribute("aria-current", String(number === place));
    this.changed();
  }

  removal(place) {
    const holder = document.createElement("td");
    const button = document.createElement("button");
    button.type = "button";
    button.className = "px-1 text-mute hover:text-ink";
    button.textContent = "×";
    button.setAttribute("aria-label", `Take row ${place + 1} out`);
    button.addEventListener("click", () => {
      const [gone] = this.rows.splice(place, 1);
      this.at = Math.max(0, Math.min(this.at, this.rows.length - 1));
      this.put();
      const back = () => {
        this.rows.splice(place, 0, gone);
        this.put();
      };
      notice(`Row ${place + 1} is taken out.`, { action: { label: "Undo", run: back } });
    });
    holder.append(button);
    return holder;
  }
}
