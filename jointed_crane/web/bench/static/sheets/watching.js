// The sheets that measure motion: how well a loop closes, and whether a point stands still.

import { get } from "../../api.js";
import { notice, saying } from "../../notices.js";
import { arithmetic } from "../elements/fields.js";
import { readable } from "../elements/drawing.js";
import { line } from "./previewed.js";

const listed = (list, rows) => list.replaceChildren(...rows.map(line));

/**
 * What differs between the last frame and the first.
 * @param {Bench} bench
 */
export function mountSeam(dialog, bench) {
  const list = dialog.querySelector("[data-sheet=list]");
  return async () => {
    await bench.work;
    const answer = await saying(() => get(`${bench.path}/seam`));
    if (!answer) return;
    const open = answer.seams.filter(({ px, degrees }) => px > 0.005 || Math.abs(degrees) > 0.005);
    const words = ({ part, px, degrees }) => [bench.part(part).name, `${readable(px, 2)} px, ${readable(degrees, 2)}°`];
    listed(list, open.length ? open.map(words) : [["The loop closes: every part ends as it begins.", ""]]);
    dialog.showModal();
  };
}

/**
 * Where a point of the last picked part goes, how fast, where it slips while it should stand, and whether the part stands
 * on its level.
 * @param {Bench} bench
 */
export function mountWatch(dialog, bench) {
  const { point, level, first, last, limit } = dialog.querySelector("form").elements;
  const list = dialog.querySelector("[data-sheet=list]");
  const levels = dialog.querySelector("[data-watch=level]");
  const stand = dialog.querySelector("[data-watch=stand]");
  /** @type {{ words: string, at?: number[] }[]} */
  let places = [];

  async function measure() {
    const [from, to] = [first, last].map((field) => Math.round(arithmetic(field.value) ?? 0));
    const at = places[point.selectedIndex]?.at;
    const where = at ? `&x=${at[0]}&y=${at[1]}` : "";
    const answer = await saying(() =>
      get(
        `${bench.path}/drift?part=${encodeURIComponent(JSON.stringify(bench.lead))}&from=${from}&to=${to}&limit=${arithmetic(limit.value) ?? 0.1}${where}`,
      ),
    );
    if (!answer || !dialog.open) return;
    const fastest = answer.speeds.indexOf(Math.max(...answer.speeds));
    const gone = answer.speeds.reduce((sum, speed) => sum + speed, 0);
    const stands = bench.part(bench.lead).footholds.length > 0;
    stand.hidden = !answer.off;
    listed(list, [
      ["Fastest", `${readable(answer.speeds[fastest], 3)} px a frame, at frame ${from + fastest}`],
      ["All its way", `${readable(gone, 1)} px`],
      ["Drifts", answer.slips.length ? `in ${answer.slips.length} frames: ${runs(answer.slips)}` : "nowhere"],
      ...(stands ? [["Stands", height(answer.off)]] : []),
    ]);
  }

  const height = (off) =>
    off
      ? `from frame ${off.frame} on up to ${readable(Math.abs(off.height), 1)} px ${off.height > 0 ? "above" : "below"} its level`
      : "on its level";

  function runs(frames) {
    const result = [];
    for (const frame of frames) {
      if (result.at(-1)?.[1] === frame - 1) result.at(-1)[1] = frame;
      else result.push([frame, frame]);
    }
    return result.map(([a, b]) => (a === b ? a : `${a} to ${b}`)).join(", ");
  }

  dialog.querySelector("form").addEventListener("input", async ({ target }) => {
    if (target === level) await bench.keep([{ edit: "set_level", part: bench.lead, mark: level.value || null }]);
    await measure();
  });
  stand.addEventListener("click", async () => {
    await bench.keep([{ edit: "stand_on_keys", part: bench.lead }]);
    await measure();
  });
  return async () => {
    if (!bench.lead) return notice("No part is picked. Pick the part whose point is to be watched first.");
    await bench.work;
    const part = bench.part(bench.lead);
    places = [{ words: "pivot", at: part.pivot }, ...part.eyelets.map(({ name, point: at }) => ({ words: `eyelet ${name}`, at }))];
    if (part.footholds.length) places.unshift({ words: "the point it stands on" });
    point.replaceChildren(...places.map(({ words }) => new Option(words)));
    const marks = bench.marks.map(({ id, name }) => new Option(`mark ${name}`, id));
    level.replaceChildren(new Option("the line it first stood on", ""), ...marks);
    level.value = part.level ?? "";
    levels.hidden = !part.footholds.length;
    first.value = 0;
    last.value = bench.stage.length - 1;
    dialog.showModal();
    return measure();
  };
}
