// The Art tab of the card: drawings, the shape or text behind them, registration, own axes, and how helpers are drawn.

import { notice } from "../../notices.js";
import { mountDrawingList } from "./drawing_list.js";
import { mountField } from "../elements/fields.js";
import { mountShapeFields } from "./shape_fields.js";
import { mountSlotFields } from "./slot_fields.js";

/**
 * @param {any} root
 * @param {Bench} bench
 */
export function mountArtTab(root, bench, acts, { pickFile, drawingFromFile, openCompare }) {
  const { previewer } = bench;
  const find = (name) => root.querySelector(`[data-art="${name}"]`);
  const part = () => bench.part(bench.lead);
  const shown = () => bench.drawingOf(bench.lead);
  const draws = [];
  const drawDrawings = mountDrawingList(root, bench, find, { drawingFromFile, openCompare, redraw: () => draw() });
  const drawShape = mountShapeFields(root, bench, find, pickFile);
  const drawSlots = mountSlotFields(find("slots"), bench);

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
      previewer,
    );
  draws.push(zero(0), zero(1));
  draws.push(
    mountField(
      find("size"),
      {
        read: () => (bench.lead ? part().size : null),
        edits: (size) => bench.picked.map((id) => ({ edit: "set_placement", part: id, size })),
        step: 5,
        digits: 1,
      },
      previewer,
    ),
  );
  find("form-of-helper").addEventListener("change", (event) =>
    bench.keep(bench.picked.map((id) => ({ edit: "set_placement", part: id, form: event.target.value }))),
  );
  for (const element of root.querySelectorAll("[data-register]"))
    element.addEventListener("click", () => acts.registerAt(element.dataset.register));
  for (const element of root.querySelectorAll("[data-axes]"))
    element.addEventListener("click", () => {
      if (element.dataset.axes !== "line") return acts.alignAxes(element.dataset.axes);
      const eyelet = bench.spot?.part === bench.lead ? bench.spotThing : part().eyelets[0];
      if (!eyelet) return notice(`${part().name} has no eyelet to point its axes at. Add one first.`);
      return bench.keep([
        {
          edit: "align_axes",
          part: bench.lead,
          to: "line",
          start: part().pivot.slice(0, 2),
          end: eyelet.point.slice(0, 2),
          frame: bench.at,
        },
      ]);
    });
  for (const element of root.querySelectorAll("[data-tag-choice]"))
    element.addEventListener("click", () => acts.tag(element.dataset.tagChoice));

  function draw() {
    if (!bench.lead) return;
    drawDrawings();
    drawShape();
    drawSlots();
    for (const field of draws) field();
    find("registration-words").textContent =
      bench.keeps === "art" ? "Art stays: the registration moves, nothing else does." : "Registration stays: the art slides under it.";
    for (const element of root.querySelectorAll("[data-tag-choice]"))
      element.setAttribute("aria-pressed", element.dataset.tagChoice === part().tag);
  }

  return { draw };
}
