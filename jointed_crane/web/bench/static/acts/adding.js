// What comes onto the stage: artwork, shapes and text; and how the stage is looked at.

import { postFiles } from "../../reading.js";
import { notice } from "../../notices.js";
import { freshId } from "../state/fresh_id.js";

/** @param {Shared} shared */
export function addingActs({ bench, keep, view, root }, acts) {
  return {
    async bringIn(files, choices = null) {
      if (!files.length) return null;
      const fields = { version: bench.version, frame: bench.at ?? "rest" };
      if (choices) fields.choices = JSON.stringify(choices);
      const answer = await bench.keepWith(() => postFiles(`${bench.path}/artwork`, files, fields));
      if (!answer) return null;
      bench.pick(answer.added.slice(-1));
      const count = answer.added.length;
      const where = count === 1 ? "" : files.length === 1 ? ", each where it was drawn" : ", beside each other";
      notice([`${count} ${count === 1 ? "part" : "parts"} came in${where}.`, ...answer.notes].join(" "));
      return answer;
    },
    addShape: async (shape, name, place = [0, 0]) => {
      const id = freshId();
      const answer = await keep("add_shape", { id, shape, name, place });
      if (answer) bench.pick([id]);
      return answer;
    },
    /** A shape of this form in the middle of the stage, a quarter of it wide. */
    addForm(form) {
      const { width, height } = bench.stage;
      const [x, y, size] = [width / 2, height / 2, Math.min(width, height) / 4];
      const shapes = {
        rectangle: { form, box: [x - size, y - size / 2, x + size, y + size / 2] },
        ellipse: { form, centre: [x, y], radii: [size / 2, size / 2] },
        polygon: { form, centre: [x, y], radius: size / 2 },
      };
      return acts.addShape(shapes[form], form[0].toUpperCase() + form.slice(1));
    },
    addText() {
      const { width, height } = bench.stage;
      const shape = {
        form: "text",
        words: "Text",
        font: "Bricolage Grotesque Bold",
        size: Math.round(height / 8),
        alignment: "middle",
        paint: { fill: "#20303c" },
      };
      return acts.addShape(shape, "Text", [width / 2, height / 2]).then((answer) => answer && acts.editWords());
    },
    /** The words of the text that is picked, to be typed at once. */
    editWords() {
      root.querySelector("[data-tab=art]").click();
      const words = root.querySelector("[data-text=words]");
      const type = (looks) => {
        // The card is drawn with the pictures to come; until then the field is hidden, or another text's.
        if (!words.checkVisibility() && looks) return requestAnimationFrame(() => type(looks - 1));
        const shape = bench.drawingOf(bench.lead)?.shape;
        if (shape?.form === "text") words.value = shape.words;
        words.focus();
        words.select();
      };
      type(30);
    },
    chequer: () => bench.setChequered(!bench.isChequered),
    fit: () => view.fit(),
    /** The stage alone with all the room, or with its panels again. */
    onlyStage() {
      const isAlone = root.classList.toggle("only-stage");
      requestAnimationFrame(() => view.fit());
      if (isAlone) notice("Space plays; F or Escape brings the panels back.");
    },
    leaveOnlyStage() {
      const isAlone = root.classList.contains("only-stage");
      if (isAlone) acts.onlyStage();
      return isAlone;
    },
  };
}
