// The shape or text behind the shown drawing, in numbers, words and colours.

import { get } from "../../api.js";
import { postFiles } from "../../reading.js";
import { saying } from "../../notices.js";
import { mountField } from "../elements/fields.js";
import { makeShapeEdits } from "./shape_edits.js";

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

/** @param {Bench} bench */
export function mountShapeFields(root, bench, find, pickFile) {
  const { shape, setShape, setPaint } = makeShapeEdits(bench);
  const text = (name) => root.querySelector(`[data-text="${name}"]`);
  const draws = [];
  let formDraws = [];
  let formOf = "";

  draws.push(
    shapeField(bench, root.querySelector('[data-shape="size"]'), "size", 1),
    shapeField(bench, root.querySelector('[data-shape="tracking"]'), "tracking", 5),
    shapeField(bench, root.querySelector('[data-shape="leading"]'), "leading", 0.05),
    shapeField(
      bench,
      root.querySelector('[data-shape="width"]'),
      "width",
      1,
      (width) => setPaint({ width }),
      () => shape().paint.width,
    ),
  );
  text("upload").addEventListener("click", async () => {
    const file = await pickFile("font-file");
    const made = file && (await saying(() => postFiles("/api/fonts", [file])));
    if (!made) return;
    await askFonts();
    bench.keep(setShape({ font: made.id }));
  });
  const paint = (name) => root.querySelector(`[data-paint="${name}"]`);
  mountWords(root, text, bench);
  mountPaint(paint, bench);

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
        return shapeField(bench, element, name, 1);
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

/**
 * A number of the shape; those that move are keyed in Motion.
 * @param {Bench} bench
 */
function shapeField(bench, element, name, step, set = null, read = null) {
  const { shape, setShape, moveShape, at, placed } = makeShapeEdits(bench);
  const isMoved = !["size", "tracking", "leading", "corners"].includes(name);
  return mountField(
    element,
    {
      read: () => (shape() ? ((read ?? at)(name) ?? 0) : null),
      edits: set ?? ((value) => (isMoved ? moveShape : setShape)(placed(name, value))),
      step,
      digits: 2,
      isKeyed: () => bench.lead && bench.isKeyed(bench.lead, name === "width" ? "stroke.width" : `form.${name}`),
    },
    bench.previewer,
  );
}

/**
 * The fields of a text's words, font and alignment.
 * @param {any} root
 * @param {any} text
 * @param {Bench} bench
 */
function mountWords(root, text, bench) {
  const { previewer } = bench;
  const { setShape } = makeShapeEdits(bench);
  for (const element of root.querySelectorAll("[data-align]"))
    element.addEventListener("click", () => bench.keep(setShape({ alignment: element.dataset.align })));
  text("words").addEventListener("keydown", (event) => event.stopPropagation());
  text("words").addEventListener("input", () => previewer.ask(setShape({ words: text("words").value })));
  text("words").addEventListener("change", () => previewer.keep(setShape({ words: text("words").value })));
  text("font").addEventListener("change", () => bench.keep(setShape({ font: text("font").value })));
}

/**
 * The fields of fill and stroke: whether there is one, and its colour.
 * @param {any} paint
 * @param {Bench} bench
 */
function mountPaint(paint, bench) {
  const { shown, shape, setShape, setPaint } = makeShapeEdits(bench);
  for (const name of ["fill", "stroke"]) {
    // A stroke without a width would not be seen.
    const width = () => (name === "stroke" && !shape().paint.width ? { width: 4 } : {});
    const has = (colour) => setShape({ paint: { ...shown().shape.paint, [name]: colour, ...width() } });
    paint(name).addEventListener("change", () =>
      bench.keep(shown().shape.paint[name] ? setPaint({ [name]: paint(name).value, ...width() }) : has(paint(name).value)),
    );
    paint(`has-${name}`).addEventListener("change", () => bench.keep(has(paint(`has-${name}`).checked ? paint(name).value : "")));
  }
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
