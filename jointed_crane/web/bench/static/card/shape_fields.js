// The shape or text behind the shown drawing, in numbers, words and colours.

import { get } from "../../api.js";
import { postFiles } from "../../reading.js";
import { saying } from "../../notices.js";
import { mountField } from "../elements/fields.js";

const TITLES = { rectangle: "Rectangle", ellipse: "Ellipse", polygon: "Polygon", path: "Pen path", text: "Text" };
const FORMS = {
  rectangle: [
    ["left", "Left", "px"],
    ["top", "Top", "px"],
    ["right", "Right", "px"],
    ["bottom", "Bottom", "px"],
    ["corner", "Corner radius", "corner"],
  ],
  ellipse: [
    ["cx", "Centre x", "x"],
    ["cy", "Centre y", "y"],
    ["rx", "Radius x", "r x"],
    ["ry", "Radius y", "r y"],
  ],
  polygon: [
    ["cx", "Centre x", "x"],
    ["cy", "Centre y", "y"],
    ["radius", "Radius", "r"],
    ["corners", "Corners", "corners"],
    ["angle", "Angle", "°"],
  ],
};
const PLACES = {
  left: ["box", 0],
  top: ["box", 1],
  right: ["box", 2],
  bottom: ["box", 3],
  cx: ["centre", 0],
  cy: ["centre", 1],
  rx: ["radii", 0],
  ry: ["radii", 1],
};

/** @param {Bench} bench */
export function mountShapeFields(root, bench, find, pickFile) {
  const { previewer } = bench;
  const text = (name) => root.querySelector(`[data-text="${name}"]`);
  const shown = () => bench.drawingOf(bench.lead);
  const shape = () => bench.movingShape(bench.lead)?.shape ?? shown()?.shape ?? null;
  const draws = [];
  let formDraws = [];
  let formOf = "";

  /** What does not move, such as words, a form or whether there is a fill: the same at all frames. */
  /** @returns {Edit[]} */
  const setShape = (fields) => [{ edit: "set_shape", part: bench.lead, drawing: shown().id, shape: { ...shown().shape, ...fields } }];
  /**
   * Numbers and colours: at rest the shape itself, in Motion keys at the frame.
   * @returns {Edit[]}
   */
  function moveShape(fields) {
    const edit = { part: bench.lead, drawing: shown().id, shape: { ...shape(), ...fields } };
    return [bench.isMotion ? { edit: "key_shape", ...edit, frame: bench.frame } : { edit: "set_shape", ...edit }];
  }
  const setPaint = (fields) => moveShape({ paint: { ...shape().paint, ...fields } });
  function at(name) {
    const [list, index] = PLACES[name] ?? [];
    return list ? shape()[list]?.[index] : shape()[name];
  }
  function placed(name, value) {
    const [list, index] = PLACES[name] ?? [];
    return list ? { [list]: shape()[list].with(index, value) } : { [name]: name === "corners" ? Math.round(value) : value };
  }
  const isMoved = (name) => !["size", "tracking", "leading", "corners"].includes(name);
  const shapeField = (
    element,
    name,
    step,
    set = (value) => (isMoved(name) ? moveShape : setShape)(placed(name, value)),
    read = () => at(name),
  ) =>
    mountField(
      element,
      {
        read: () => (shape() ? (read() ?? 0) : null),
        edits: set,
        step,
        digits: 2,
        isKeyed: () => bench.lead && bench.isKeyed(bench.lead, name === "width" ? "stroke.width" : `form.${name}`),
      },
      previewer,
    );

  draws.push(
    shapeField(root.querySelector('[data-shape="size"]'), "size", 1),
    shapeField(root.querySelector('[data-shape="tracking"]'), "tracking", 5),
    shapeField(root.querySelector('[data-shape="leading"]'), "leading", 0.05),
    shapeField(
      root.querySelector('[data-shape="width"]'),
      "width",
      1,
      (width) => setPaint({ width }),
      () => shape().paint.width,
    ),
  );
  for (const element of root.querySelectorAll("[data-align]"))
    element.addEventListener("click", () => bench.keep(setShape({ alignment: element.dataset.align })));
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
    const width = () => (name === "stroke" && !shape().paint.width ? { width: 4 } : {});
    const has = (colour) => setShape({ paint: { ...shown().shape.paint, [name]: colour, ...width() } });
    paint(name).addEventListener("change", () =>
      bench.keep(shown().shape.paint[name] ? setPaint({ [name]: paint(name).value, ...width() }) : has(paint(name).value)),
    );
    paint(`has-${name}`).addEventListener("change", () => bench.keep(has(paint(`has-${name}`).checked ? paint(name).value : "")));
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
    find("shape-title").textContent = TITLES[now.form];
    find("text").hidden = !isText;
    find("form").hidden = isText || now.form === "path";
    if (isText) {
      if (!fonts.length) return void askFonts();
      drawText(root, text, fonts, now);
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

  return drawShape;
}

/** The words, the font and the alignment of a text that is shown. */
function drawText(root, text, fonts, now) {
  if (!text("words").matches(":focus")) text("words").value = now.words;
  const missing = fonts.some((font) => font.id === now.font) ? [] : [new Option("font missing", now.font)];
  text("font").replaceChildren(...missing, ...fonts.map((font) => new Option(font.name, font.id)));
  text("font").value = now.font;
  for (const element of root.querySelectorAll("[data-align]"))
    element.setAttribute("aria-pressed", element.dataset.align === now.alignment);
}
