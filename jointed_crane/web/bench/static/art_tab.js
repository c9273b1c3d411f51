// The Art tab of the card: drawings, the shape or text behind them, registration, own axes, and how helpers are drawn.

import { get } from "/static/api.js";
import { postFiles } from "/static/reading.js";
import { notice, saying } from "/static/notices.js";
import { thumbnail } from "./drawing.js";
import { mountField, nameInput } from "./fields.js";
import { freshId } from "./state.js";

const FORMS = {
  rectangle: [["left", "Left", "px"], ["top", "Top", "px"], ["right", "Right", "px"], ["bottom", "Bottom", "px"], ["corner", "Corner radius", "corner"]],
  ellipse: [["cx", "Centre x", "x"], ["cy", "Centre y", "y"], ["rx", "Radius x", "r x"], ["ry", "Radius y", "r y"]],
  polygon: [["cx", "Centre x", "x"], ["cy", "Centre y", "y"], ["radius", "Radius", "r"], ["corners", "Corners", "corners"], ["angle", "Angle", "°"]],
};
const PLACES = { left: ["box", 0], top: ["box", 1], right: ["box", 2], bottom: ["box", 3], cx: ["centre", 0], cy: ["centre", 1], rx: ["radii", 0], ry: ["radii", 1] };

export function mountArtTab(root, bench, acts, previewer, { pickFile, drawingFromFile, openCompare }) {
  const find = (name) => root.querySelector(`[data-art="${name}"]`);
  const text = (name) => root.querySelector(`[data-text="${name}"]`);
  const part = () => bench.part(bench.lead);
  const shown = () => bench.drawingOf(bench.lead);
  const shape = () => shown()?.shape ?? null;
  const draws = [];
  let fit = "registration";
  for (const element of root.querySelectorAll("[data-fit]"))
    element.addEventListener("click", () => {
      fit = element.dataset.fit;
      for (const other of root.querySelectorAll("[data-fit]")) other.setAttribute("aria-pressed", other === element);
    });
  let formDraws = [];
  let formOf = "";

  // Drawings

  const number = (id) => part().drawings.findIndex((drawing) => drawing.id === id);
  const show = (id) => bench.keep([{ edit: "set_values", parts: [bench.lead], values: { drawing: number(id) }, frame: bench.at }]);

  function button(words, label, act) {
    const made = document.createElement("button");
    made.className = "button button-small px-1.5!";
    made.textContent = words;
    made.title = label;
    made.setAttribute("aria-label", label);
    made.addEventListener("click", act);
    return made;
  }

  function drawingRow(drawing, index) {
    const row = document.createElement("li");
    row.className = "flex items-center gap-1.5 rounded-md px-1 py-0.5 aria-[current=true]:bg-lagoon-light";
    row.setAttribute("aria-current", drawing.id === shown()?.id);
    const picture = document.createElement("button");
    picture.className = "size-8 shrink-0 overflow-hidden rounded border border-line bg-card";
    picture.title = `Show ${drawing.name}`;
    picture.setAttribute("aria-label", `Show ${drawing.name}`);
    picture.append(thumbnail(drawing, { width: 30, height: 30 }));
    picture.addEventListener("click", () => show(drawing.id));
    const rename = (name) => bench.keep([{ edit: "rename_drawing", part: bench.lead, drawing: drawing.id, name }]).then((kept) => kept ?? draw());
    const name = nameInput(drawing.name, `Name of drawing ${drawing.name}`, "h-6 min-w-0 grow rounded-md border border-transparent bg-transparent px-1 hover:border-line", rename);
    const replace = button("Replace", `Replace the art of ${drawing.name} from a file`, () => replaceArt(drawing));
    row.append(picture, name, replace);
    if (index > 0) row.append(button("↑", `${drawing.name} one number up`, () => bench.keep([{ edit: "order_drawing", part: bench.lead, drawing: drawing.id, to: index - 1 }])));
    if (part().drawings.length > 1) row.append(button("×", `Delete drawing ${drawing.name}`, () => bench.keep([{ edit: "delete_drawing", part: bench.lead, drawing: drawing.id }])));
    return row;
  }

  async function replaceArt(drawing) {
    const by = await drawingFromFile();
    if (by) await bench.keep([{ edit: "replace_drawing", part: bench.lead, drawing: drawing.id, by, fit }]);
  }
  find("copy").addEventListener("click", () => bench.keep([{ edit: "copy_drawing", part: bench.lead, drawing: shown().id, id: freshId(), frame: bench.at }]));
  find("file").addEventListener("click", async () => {
    const drawing = await drawingFromFile();
    if (drawing) bench.keep([{ edit: "add_drawing", part: bench.lead, drawing: { ...drawing, id: freshId() }, frame: bench.at }]);
  });
  find("compare").addEventListener("click", () => openCompare(bench.lead));
  find("take").addEventListener("change", (event) => {
    const [source, drawing] = event.target.value.split("/");
    if (source) bench.keep([{ edit: "copy_drawing", part: bench.lead, source, drawing, id: freshId(), frame: bench.at }]);
  });

  // Filled when it is opened, as the list of parents is.
  for (const name of ["pointerdown", "focus"])
    find("take").addEventListener(name, () => {
      if (find("take").length > 1) return;
      for (const id of bench.order) if (id !== bench.lead) for (const drawing of bench.part(id).drawings) find("take").append(new Option(`${bench.part(id).name}: ${drawing.name}`, `${id}/${drawing.id}`));
    });

  function drawDrawings() {
    const isHelper = part().kind === "helper";
    find("drawings").hidden = isHelper;
    find("registration").hidden = isHelper;
    find("helper").hidden = !isHelper;
    find("form-of-helper").value = part().form;
    if (isHelper) return;
    find("list").replaceChildren(...part().drawings.map(drawingRow));
    find("copy").disabled = !shown();
    find("compare").disabled = part().drawings.length < 2;
    find("take").replaceChildren(new Option("choose a drawing", ""));
  }

  // The shape or text behind the shown drawing

  const setShape = (fields) => [{ edit: "set_shape", part: bench.lead, drawing: shown().id, shape: { ...shape(), ...fields } }];
  const setPaint = (fields) => setShape({ paint: { ...shape().paint, ...fields } });
  function at(name) {
    const [list, index] = PLACES[name] ?? [];
    return list ? shape()[list]?.[index] : shape()[name];
  }
  function placed(name, value) {
    const [list, index] = PLACES[name] ?? [];
    return list ? { [list]: shape()[list].with(index, value) } : { [name]: name === "corners" ? Math.round(value) : value };
  }
  const shapeField = (element, name, step, set = (value) => setShape(placed(name, value)), read = () => at(name)) =>
    mountField(element, { read: () => (shape() ? (read() ?? 0) : null), edits: set, step, digits: 2 }, bench, previewer);

  draws.push(
    shapeField(root.querySelector('[data-shape="size"]'), "size", 1),
    shapeField(root.querySelector('[data-shape="tracking"]'), "tracking", 5),
    shapeField(root.querySelector('[data-shape="leading"]'), "leading", 0.05),
    shapeField(root.querySelector('[data-shape="width"]'), "width", 1, (width) => setPaint({ width }), () => shape().paint.width),
  );
  for (const element of root.querySelectorAll("[data-align]")) element.addEventListener("click", () => bench.keep(setShape({ alignment: element.dataset.align })));
  text("words").addEventListener("keydown", (event) => event.stopPropagation());
  text("words").addEventListener("input", () => previewer.ask(setShape({ words: text("words").value })));
  text("words").addEventListener("change", () => previewer.keep(setShape({ words: text("words").value })));
  text("font").addEventListener("change", () => bench.keep(setShape({ font: text("font").value })));
  text("upload").addEventListener("click", async () => {
    const file = await pickFile("font-file");
    const made = file && (await saying(() => postFiles("/api/fonts", [file])));
    if (!made) return;
    await askFonts();
    bench.keep(setShape({ font: made.id }));
  });
  const paint = (name) => root.querySelector(`[data-paint="${name}"]`);
  for (const name of ["fill", "stroke"]) {
    // A stroke without a width would not be seen.
    const keepPaint = (colour) => bench.keep(setPaint({ [name]: colour, ...(name === "stroke" && !shape().paint.width ? { width: 4 } : {}) }));
    paint(name).addEventListener("change", () => keepPaint(paint(name).value));
    paint(`has-${name}`).addEventListener("change", () => keepPaint(paint(`has-${name}`).checked ? paint(name).value : ""));
  }

  let fonts = [];
  async function askFonts() {
    const answer = await saying(() => get("/api/fonts"));
    if (answer) fonts = answer.fonts;
    drawShape();
  }

  function drawShape() {
    const now = shape();
    find("shape").hidden = !now;
    if (!now) return;
    const isText = now.form === "text";
    find("shape-title").textContent = { rectangle: "Rectangle", ellipse: "Ellipse", polygon: "Polygon", path: "Pen path", text: "Text" }[now.form];
    find("text").hidden = !isText;
    find("form").hidden = isText || now.form === "path";
    if (isText) {
      if (!fonts.length) return void askFonts();
      if (!text("words").matches(":focus")) text("words").value = now.words;
      const missing = fonts.some((font) => font.id === now.font) ? [] : [new Option("font missing", now.font)];
      text("font").replaceChildren(...missing, ...fonts.map((font) => new Option(font.name, font.id)));
      text("font").value = now.font;
      for (const element of root.querySelectorAll("[data-align]")) element.setAttribute("aria-pressed", element.dataset.align === now.alignment);
    } else if (formOf !== now.form && FORMS[now.form]) {
      formOf = now.form;
      find("form").replaceChildren();
      formDraws = FORMS[now.form].map(([name, label, unit]) => {
        const element = document.createElement("label");
        element.className = "field";
        element.innerHTML = `<input inputmode="decimal" aria-label="${label}" autocomplete="off"><span class="unit">${unit}</span>`;
        find("form").append(element);
        return shapeField(element, name, 1);
      });
    }
    for (const name of ["fill", "stroke"]) {
      paint(`has-${name}`).checked = Boolean(now.paint[name]);
      if (now.paint[name]) paint(name).value = now.paint[name];
    }
    for (const field of [...draws, ...(formOf === now.form ? formDraws : [])]) field();
  }

  // Registration, axes, helpers, colours

  const zero = (axis) =>
    mountField(
      find(`zero-${"xy"[axis]}`),
      {
        read: () => (bench.lead && shown() ? shown().registration[axis] : null),
        edits: (value) => {
          const point = [0, 0].with(axis, value - shown().registration[axis]);
          return [{ edit: "move_registration", part: bench.lead, point, keep: bench.keepsZero, frame: bench.at }];
        },
        step: 1,
        digits: 1,
      },
      bench,
      previewer,
    );
  draws.push(zero(0), zero(1));
  draws.push(
    mountField(find("size"), { read: () => (bench.lead ? part().size : null), edits: (size) => bench.picked.map((id) => ({ edit: "set_placement", part: id, size })), step: 5, digits: 1 }, bench, previewer),
  );
  find("form-of-helper").addEventListener("change", (event) => bench.keep(bench.picked.map((id) => ({ edit: "set_placement", part: id, form: event.target.value }))));
  for (const element of root.querySelectorAll("[data-register]")) element.addEventListener("click", () => acts.registerAt(element.dataset.register));
  for (const element of root.querySelectorAll("[data-axes]"))
    element.addEventListener("click", () => {
      if (element.dataset.axes !== "line") return acts.alignAxes(element.dataset.axes);
      const eyelet = bench.spot?.part === bench.lead ? bench.spotThing : part().eyelets[0];
      if (!eyelet) return notice(`${part().name} has no eyelet to point its axes at. Add one first.`);
      return bench.keep([{ edit: "align_axes", part: bench.lead, to: "line", start: part().pivot.slice(0, 2), end: eyelet.point.slice(0, 2), frame: bench.at }]);
    });
  for (const element of root.querySelectorAll("[data-tag-choice]")) element.addEventListener("click", () => acts.tag(element.dataset.tagChoice));

  function draw() {
    if (!bench.lead) return;
    drawDrawings();
    drawShape();
    for (const field of draws) field();
    find("registration-words").textContent = bench.keeps === "art" ? "Art stays: the zero moves, nothing else does." : "Zero stays: the art slides under it.";
    for (const element of root.querySelectorAll("[data-tag-choice]")) element.setAttribute("aria-pressed", element.dataset.tagChoice === part().tag);
  }

  return { draw };
}
