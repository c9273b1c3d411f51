// What may be chosen of a way out: fields made from what the server says of each.

/** The rows in which choices stand, by their names. */
/** @type {[string, string[]][]} */
const ROWS = [
  ["Frames", ["first", "last", "rate", "loops"]],
  ["Size", ["scale", "height", "part", "see_through"]],
  ["Look", ["quality", "lossless", "codec", "palette", "dither", "matte", "what"]],
  ["File", ["pattern", "begin", "columns", "padding", "trimmed", "pivot"]],
];

/** How codecs are written. */
const WRITTEN = { vp9: "VP9", av1: "AV1", h264: "H.264" };

const asNumber = (word) => (word === "" ? undefined : Number(word));

export class Choices {
  /** Draws fields of the way that is taken; `changed` is called when one is. */
  constructor(form, known, changed) {
    this.form = form;
    this.known = known;
    this.changed = changed;
    this.way = "";
    this.chosen = {};
    form.addEventListener("submit", (event) => event.preventDefault());
  }

  /** Takes a way, and what is chosen of it. */
  take(way, chosen) {
    this.way = way;
    this.chosen = { ...chosen };
    this.draw();
  }

  /** The way and what is chosen of it, as the server takes them. */
  get order() {
    return { way: this.way, choices: { ...this.chosen } };
  }

  /** Whether the way has a choice of this name. */
  knows(name) {
    return this.known.ways[this.way].fields.some((field) => field.name === name);
  }

  /** The fields of another way that are chosen here too. */
  shared(other) {
    return this.known.ways[other].fields.filter(({ name }) => name in this.chosen);
  }

  /** What is chosen, of those choices that another way knows too. */
  chosenFor(other) {
    return Object.fromEntries(this.shared(other).map(({ name }) => [name, this.chosen[name]]));
  }

  /** The same as a query. */
  query(other) {
    const fields = this.shared(other);
    return new URLSearchParams(fields.map(({ name, query }) => [query, String(this.chosen[name])]));
  }

  put(values) {
    const all = Object.entries({ ...this.chosen, ...values });
    this.chosen = Object.fromEntries(all.filter(([, value]) => value !== undefined));
    this.draw();
    this.changed();
  }

  draw() {
    const fields = new Map(this.known.ways[this.way].fields.map((field) => [field.name, field]));
    const rows = [];
    for (const [title, names] of ROWS) {
      const its = names.filter((name) => fields.has(name)).map((name) => fields.get(name));
      if (its.length) rows.push(this.row(title, its));
    }
    const { name } = /** @type {HTMLInputElement} */ (document.activeElement ?? {});
    this.form.replaceChildren(...rows);
    if (name) this.form.elements[name]?.focus();
  }

  row(title, fields) {
    const line = document.createElement("div");
    line.className = "send-row";
    const word = document.createElement("span");
    word.className = "send-row-title";
    word.textContent = title;
    line.append(word);
    if (fields.some(({ name }) => name === "last") && this.known.spans.length) line.append(this.spanChoice());
    line.append(...fields.map((field) => this.chip(field)));
    return line;
  }

  /** The spans of the scene by their names; one puts its frames into the fields. */
  spanChoice() {
    const select = document.createElement("select");
    select.name = "span";
    select.className = "send-chip";
    select.setAttribute("aria-label", "Span");
    const spans = [{ name: "whole scene", first: undefined, last: undefined }, ...this.known.spans];
    const at = spans.findIndex(({ first, last }) => first === this.chosen.first && last === this.chosen.last);
    select.append(...spans.map(({ name }) => new Option(name)));
    if (at < 0) select.append(new Option("these frames"));
    select.selectedIndex = at < 0 ? spans.length : at;
    select.addEventListener("change", () => {
      const { first, last } = spans[select.selectedIndex] ?? this.chosen;
      this.put({ first, last });
    });
    return select;
  }

  chip(field) {
    const label = document.createElement("label");
    label.className = "send-chip";
    label.title = `${field.words[0].toUpperCase()}${field.words.slice(1)}.`;
    const word = document.createElement("span");
    word.textContent = { first: "from", last: "to" }[field.name] ?? field.name.replace("_", "-");
    const input = this.input(field);
    input.name = field.name;
    label.append(...(input.type === "checkbox" ? [input, word] : [word, input]));
    return label;
  }

  input(field) {
    if (field.name === "part")
      return this.select(field, [new Option("all parts", ""), ...this.known.parts.map((word) => new Option(word))]);
    if (field.name === "pivot")
      return this.select(field, [new Option("the stage’s middle", ""), ...this.known.pivots.map((word) => new Option(word))]);
    if (field.options.length)
      return this.select(
        field,
        field.options.map((word) => new Option(WRITTEN[word] ?? word, word)),
      );
    return field.kind === "boolean" ? this.box(field) : this.typed(field);
  }

  select({ name, default: usual }, options) {
    const select = document.createElement("select");
    select.append(...options);
    select.value = this.chosen[name] ?? usual ?? "";
    select.addEventListener("change", () => this.put({ [name]: select.value || undefined }));
    return select;
  }

  box({ name, default: usual }) {
    const input = document.createElement("input");
    input.type = "checkbox";
    input.checked = this.chosen[name] ?? usual;
    input.addEventListener("change", () => this.put({ [name]: input.checked }));
    return input;
  }

  typed({ name, kind, default: usual }) {
    const input = document.createElement("input");
    const isNumber = kind !== "string";
    const shown = () => String(this.chosen[name] ?? usual ?? "");
    input.inputMode = isNumber ? "decimal" : "text";
    input.spellcheck = false;
    input.value = shown();
    input.placeholder = { last: String(this.known.length - 1), rate: String(this.known.rate), height: "as scaled" }[name] ?? "";
    input.size = { height: 8, rate: 7, pattern: 14, matte: 8 }[name] ?? 4;
    input.addEventListener("change", () => {
      const word = input.value.trim();
      const value = isNumber ? asNumber(word) : word || undefined;
      if (Number.isNaN(value)) input.value = shown();
      else this.put({ [name]: value });
    });
    return input;
  }
}
