// The sheets of depth: folding panels, spreading layers before a camera, prisms, and boxes of pictures.

import { postFiles } from "../../reading.js";
import { notice, saying } from "../../notices.js";
import { arithmetic } from "../elements/fields.js";
import { readable } from "../elements/drawing.js";
import { freshId } from "../state/fresh_id.js";
import { mountPreviewed } from "./previewed.js";

/**
 * Panels that lie edge to edge are folded at the hinges that are found, at once or by a lever.
 * @param {Bench} bench
 */
export function mountFold(dialog, bench) {
  const { angle, tolerance, way } = dialog.querySelector("form").elements;
  let lever = freshId();
  const angles = () => angle.value.split(";").map((text) => arithmetic(text) ?? 90);
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [
      {
        edit: "fold",
        parts: bench.picked,
        angle: angles()[0],
        angles: angles().length > 1 ? angles() : [],
        tolerance: arithmetic(tolerance.value) ?? 1,
        lever: way.value === "lever" ? lever : null,
      },
    ],
    lines(answer) {
      const hung = answer.changed.filter(({ id, parent }) => parent && bench.parts.has(id));
      const by = (id) => readable(angles()[bench.picked.indexOf(id) - 1] ?? angles()[0], 2);
      return hung.map(({ id, parent }) => [bench.part(id).name, `on ${bench.part(parent).name}, by ${by(id)}°`]);
    },
  });
  return async () => {
    if (bench.picked.length < 2) return notice("Pick the panels that lie edge to edge first; the one that stays is picked first.");
    await bench.setMotion(false);
    lever = freshId();
    angle.select();
    return open();
  };
}

/**
 * Flat layers spread in depth; their picture from the camera stays.
 * @param {Bench} bench
 */
export function mountSpread(dialog, bench) {
  const { by } = dialog.querySelector("form").elements;
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [{ edit: "spread_in_depth", parts: bench.picked, by: arithmetic(by.value) ?? 0, frame: bench.at }],
    lines: () => bench.picked.map((id, place) => [bench.part(id).name, `${readable((arithmetic(by.value) ?? 0) * place, 1)} px farther`]),
  });
  return () => {
    if (bench.picked.length < 2) return notice("Pick two layers or more first; the one picked first stays where it is.");
    by.select();
    return open();
  };
}

/**
 * A prism of so many sides; many make a cylinder.
 * @param {Bench} bench
 */
export function mountPrism(dialog, bench) {
  const { sides, wide, high, closed } = dialog.querySelector("form").elements;
  let id = freshId();
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [
      {
        edit: "add_prism",
        id,
        sides: Math.round(arithmetic(sides.value) ?? 6),
        wide: arithmetic(wide.value) ?? 0,
        high: arithmetic(high.value) ?? 0,
        closed: closed.checked,
      },
    ],
    lines: (answer) => [["Panels", String(answer.changed.length - 1)]],
    isShown: false,
  });
  return () => {
    id = freshId();
    sides.select();
    return open();
  };
}

/**
 * A box of pictures that the user chooses: one goes all round it, six are front, right, back, left, top and bottom.
 * @param {Bench} bench
 */
export const makeBoxOfPictures = (bench, pickFiles) =>
  async function boxOfPictures() {
    const files = await pickFiles("face-files");
    if (!files.length) return;
    const drawings = [];
    for (const file of files) {
      const made = await saying(() => postFiles("/api/drawings", [file]));
      if (!made?.drawing) return;
      drawings.push(made.drawing);
    }
    const [left, top, right, bottom] = drawings[0].bounds;
    const scale = Math.min(1, Math.min(bench.stage.width, bench.stage.height) / 2 / Math.max(right - left, bottom - top));
    const [wide, high] = [(right - left) * scale, (bottom - top) * scale];
    const id = freshId();
    if (await bench.keep([{ edit: "add_box", id, size: [wide, high, wide], drawings }])) bench.pick([id]);
  };
