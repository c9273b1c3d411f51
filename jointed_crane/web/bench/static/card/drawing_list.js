// The drawings of a part: which one shows, their names and order, and where new ones come from.

import { thumbnail } from "../elements/drawing.js";
import { freshId } from "../state/fresh_id.js";
import { allow, nameInput, smallButton } from "../elements/fields.js";

/**
 * @param {any} root
 * @param {Bench} bench
 */
export function mountDrawingList(root, bench, find, { drawingFromFile, openCompare, redraw }) {
  const part = () => bench.part(bench.lead);
  const shown = () => bench.drawingOf(bench.lead);
  /** @type {"registration" | "box"} */
  let fit = "registration";
  for (const element of root.querySelectorAll("[data-fit]"))
    element.addEventListener("click", () => {
      fit = element.dataset.fit;
      for (const other of root.querySelectorAll("[data-fit]")) other.setAttribute("aria-pressed", other === element);
    });

  const number = (id) => part().drawings.findIndex((drawing) => drawing.id === id);
  const show = (id) => bench.keep([{ edit: "set_values", parts: [bench.lead], values: { drawing: number(id) }, frame: bench.at }]);

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
    const rename = (name) =>
      bench.keep([{ edit: "rename_drawing", part: bench.lead, drawing: drawing.id, name }]).then((kept) => kept ?? redraw());
    const name = nameInput(
      drawing.name,
      `Name of drawing ${drawing.name}`,
      "h-6 min-w-0 grow rounded-md border border-transparent bg-transparent px-1 hover:border-line",
      rename,
    );
    const replace = smallButton("Replace", `Replace the art of ${drawing.name} from a file`, () => replaceArt(drawing));
    row.append(picture, name, replace);
    if (index > 0)
      row.append(
        smallButton("↑", `${drawing.name} one number up`, () =>
          bench.keep([{ edit: "order_drawing", part: bench.lead, drawing: drawing.id, to: index - 1 }]),
        ),
      );
    if (part().drawings.length > 1)
      row.append(
        smallButton("×", `Delete drawing ${drawing.name}`, () =>
          bench.keep([{ edit: "delete_drawing", part: bench.lead, drawing: drawing.id }]),
        ),
      );
    return row;
  }

  async function replaceArt(drawing) {
    const by = await drawingFromFile();
    if (by) await bench.keep([{ edit: "replace_drawing", part: bench.lead, drawing: drawing.id, by, fit }]);
  }
  find("copy").addEventListener("click", () =>
    bench.keep([{ edit: "copy_drawing", part: bench.lead, drawing: shown().id, id: freshId(), frame: bench.at }]),
  );
  find("file").addEventListener("click", async () => {
    const drawing = await drawingFromFile();
    if (drawing) bench.keep([{ edit: "add_drawing", part: bench.lead, drawing: { ...drawing, id: freshId() }, frame: bench.at }]);
  });
  find("compare").addEventListener("click", () => openCompare(bench.lead));

  mountTaking(find("take"), bench);

  function drawDrawings() {
    const isHelper = part().kind === "helper";
    find("drawings").hidden = isHelper;
    find("registration").hidden = isHelper;
    find("helper").hidden = !isHelper;
    find("form-of-helper").value = part().form;
    if (isHelper) return;
    find("list").replaceChildren(...part().drawings.map(drawingRow));
    allow(find("copy"), shown(), "Nothing is shown that could be copied");
    allow(find("compare"), part().drawings.length > 1, "It has one drawing; two and more can be compared");
    find("take").replaceChildren(new Option("choose a drawing", ""));
  }

  return drawDrawings;
}

/**
 * A list of the drawings of other parts, of which one is copied; filled when it is opened, as the list of parents is.
 * @param {any} take
 * @param {Bench} bench
 */
function mountTaking(take, bench) {
  take.addEventListener("change", () => {
    const [source, drawing] = take.value.split("/");
    if (source) bench.keep([{ edit: "copy_drawing", part: bench.lead, source, drawing, id: freshId(), frame: bench.at }]);
  });
  for (const name of ["pointerdown", "focus"])
    take.addEventListener(name, () => {
      if (take.length > 1) return;
      for (const id of bench.order)
        if (id !== bench.lead)
          for (const drawing of bench.part(id).drawings)
            take.append(new Option(`${bench.part(id).name}: ${drawing.name}`, `${id}/${drawing.id}`));
    });
}
