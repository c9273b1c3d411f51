// The bench's dialogs: naming by a pattern, comparing drawings, scaling a helper; and the page's file inputs.

import { postFiles } from "../../reading.js";
import { notice, saying } from "../../notices.js";
import { artImage, pin, svg } from "../elements/drawing.js";
import { freshId } from "../state/fresh_id.js";
import { mountBake, mountBetween, mountPivot, mountSway } from "./curve_sheets.js";
import { makeBoxOfPictures, mountFold, mountPrism, mountSpread } from "./depth_sheets.js";
import { mountImport } from "./importing.js";
import { mountMarker, mountPoses } from "./keeping.js";
import { mountPreviewed } from "./previewed.js";
import { mountFrames, mountRoll, mountStagger, mountTurns } from "./time_sheets.js";
import { mountUpdate } from "./updating.js";
import { mountSeam, mountWatch } from "./watching.js";

/**
 * Mounts every dialog; returns openers for the commands.
 * @param {Bench} bench
 * @param {View} view
 */
export function mountSheets(root, bench, view, acts) {
  const dialog = (name) => root.querySelector(`dialog[data-bench=${name}]`);
  for (const button of root.querySelectorAll("dialog [data-close]"))
    button.addEventListener("click", () => button.closest("dialog").close());

  /** Resolves to the file chosen in one of the page's file inputs, or null. */
  function pickFiles(name) {
    const input = root.querySelector(`[data-bench=${name}]`);
    input.value = "";
    return new Promise((resolve) => {
      input.onchange = () => resolve([...input.files]);
      input.oncancel = () => resolve([]);
      input.click();
    });
  }
  const pickFile = async (name = "one-file") => (await pickFiles(name))[0] ?? null;

  /** A file the user chooses as one drawing, its art stored; null where none came. */
  async function drawingFromFile() {
    const file = await pickFile();
    const made = file && (await saying(() => postFiles("/api/drawings", [file])));
    return made?.drawing ?? null;
  }

  return {
    pickFile,
    pickFiles,
    drawingFromFile,
    names: mountNames(dialog("names"), bench),
    stagger: mountStagger(dialog("stagger"), bench),
    frames: mountFrames(dialog("frames"), bench),
    turns: mountTurns(dialog("turns"), bench),
    roll: mountRoll(dialog("roll"), bench),
    between: mountBetween(dialog("between"), bench),
    sway: mountSway(dialog("sway"), bench),
    bake: mountBake(dialog("bake"), bench),
    seam: mountSeam(dialog("seam"), bench),
    watch: mountWatch(dialog("watch"), bench),
    pivot: mountPivot(dialog("pivot"), bench),
    marker: mountMarker(dialog("marker"), bench),
    poses: mountPoses(dialog("poses"), bench),
    openCompare: mountCompare(dialog("compare"), bench),
    openImport: mountImport(dialog("import"), bench, view, acts),
    openUpdate: mountUpdate(dialog("update"), bench),
    fold: mountFold(dialog("fold"), bench),
    spread: mountSpread(dialog("spread"), bench),
    prism: mountPrism(dialog("prism"), bench),
    boxOfPictures: makeBoxOfPictures(bench, pickFiles),
    ...mountScaling(dialog("scaling"), bench),
    /** Followed points, each as a helper with keys. */
    async track() {
      const file = await pickFile("track-file");
      const result = file && (await saying(() => postFiles("/api/tracks", [file])));
      const edits = result?.tracks.map((track) => ({ edit: "bring_track", id: freshId(), ...track }));
      if (edits && (await bench.keep(edits))) bench.pick(edits.map(({ id }) => id));
    },
    async reference() {
      const files = await pickFiles("reference-files");
      const result = files.length ? await saying(() => postFiles("/api/moving", files)) : null;
      if (result) addReference(bench, result);
    },
  };
}

/**
 * Keys that show each drawing from its frame on, and begin again after the last.
 * @param {Bench} bench
 * @returns {Record<string, Channel>}
 */
function turningOver(bench, { drawings, starts }) {
  if (drawings.length < 2) return {};
  const frames = starts?.map((seconds) => seconds * bench.fps) ?? [...drawings.keys(), drawings.length];
  const keys = frames.map((frame, number) => ({ frame, value: number % drawings.length, kind: "hold" }));
  return { drawing: { keys, after: "repeat", before: "repeat" } };
}

/** @param {Bench} bench */
async function addReference(bench, result) {
  const id = freshId();
  const { drawings } = result;
  const [{ bounds }] = drawings;
  const name = drawings.length > 1 ? drawings[0].name.replace(/\W*\d+$/, "") || "Reference" : drawings[0].name;
  const [left, top, right, bottom] = bounds;
  const middle = [(left + right) / 2, (top + bottom) / 2];
  const { width, height } = bench.stage;
  const scale = Math.min(1, width / (right - left), height / (bottom - top));
  /** @type {Part} */
  const part = {
    id,
    name,
    kind: "reference",
    drawings,
    pivot: [...middle, 0],
    channels: turningOver(bench, result),
    rest: { "move.x": width / 2, "move.y": height / 2, "scale.x": scale, "scale.y": scale, opacity: 0.4 },
  };
  const kept = await bench.keep([
    { edit: "add_parts", parts: [part] },
    { edit: "place_in_order", parts: [id], above: null },
    { edit: "set_bench_state", parts: [id], locked: true },
  ]);
  if (!kept) return;
  bench.pick([id]);
  const moves =
    drawings.length > 1
      ? ` Its ${drawings.length} pictures go on with the frames and begin again; move its keys to shift them in time.`
      : "";
  notice(`${name} lies under the work at opacity 0.4, locked and never sent out.${moves} “To the front” puts it over the work.`);
}

/** @param {Bench} bench */
function mountNames(dialog, bench) {
  const { pattern, first } = dialog.querySelector("form").elements;
  const { open, preview } = mountPreviewed(dialog, bench, {
    edits: () => [{ edit: "name_by_pattern", parts: bench.picked, pattern: pattern.value, first: Number(first.value) || 0 }],
    lines: () => bench.picked.map((id) => [bench.parts.get(id).name, bench.part(id).name]),
  });
  for (const button of dialog.querySelectorAll("[data-token]"))
    button.addEventListener("click", () => {
      pattern.setRangeText(button.dataset.token, pattern.selectionStart, pattern.selectionEnd, "end");
      pattern.focus();
      preview();
    });
  return () => {
    if (!bench.picked.length) return notice("No part is picked. Pick the parts to name first.");
    pattern.select();
    return open();
  };
}

/**
 * Asks once a visit what scaling a helper means: its drawn size, or everything on it.
 * @param {Bench} bench
 */
function mountScaling(dialog, bench) {
  let meant = null;
  for (const button of dialog.querySelectorAll("button[data-scaling]"))
    button.addEventListener("click", () => {
      meant = button.dataset.scaling;
      dialog.close();
      notice(
        meant === "size"
          ? "The scale tool now changes the drawn size of helpers. Drag a handle."
          : "The scale tool now scales everything on a helper. Drag a handle.",
      );
    });
  return {
    scalingMeant: () => meant,
    askScaling(part) {
      const count = bench.children(part.id).length;
      dialog.querySelector("[data-scaling=words]").textContent =
        `${part.name} is a helper. Scaling it scales the ${count === 1 ? "part" : `${count} parts`} on it, and skews what turns there. Its drawn size can be changed without that.`;
      dialog.showModal();
    },
  };
}

/** @param {Bench} bench */
function mountCompare(dialog, bench) {
  const find = (name) => dialog.querySelector(`[data-compare=${name}]`);
  let id = null;
  let isOver = false;

  function picture(drawing, opacity) {
    const group = svg("g", { opacity });
    group.append(artImage(drawing));
    return group;
  }
  function signs(scale) {
    const part = bench.part(id);
    const group = svg("g");
    for (const eyelet of part.eyelets)
      group.append(
        svg("circle", {
          cx: eyelet.point[0],
          cy: eyelet.point[1],
          r: 8 * scale,
          fill: "none",
          class: "stroke-lagoon",
          "stroke-width": 2.4 * scale,
        }),
      );
    const pivot = pin(0, 0, { size: 8 });
    pivot.setAttribute("transform", `translate(${part.pivot[0]} ${part.pivot[1]}) scale(${scale})`);
    group.append(
      pivot,
      svg("path", { d: `M${14 * scale} 0H0V${14 * scale}`, fill: "none", class: "stroke-coral", "stroke-width": 2 * scale }),
    );
    return group;
  }

  function draw() {
    const { drawings, pivot } = bench.part(id);
    const pair = [find("left"), find("right")].map((choice) => drawings.find((drawing) => drawing.id === choice.value) ?? drawings[0]);
    const boxes = [...pair.map((drawing) => drawing.bounds), [pivot[0], pivot[1], pivot[0], pivot[1]]];
    const low = [0, 1].map((axis) => Math.min(...boxes.map((box) => box[axis])));
    const high = [2, 3].map((axis) => Math.max(...boxes.map((box) => box[axis])));
    const spare = 0.08 * Math.max(high[0] - low[0], high[1] - low[1], 1);
    const [width, height] = [high[0] - low[0] + 2 * spare, high[1] - low[1] + 2 * spare];
    const view = find("view");
    const scale = Math.max(width * (isOver ? 1 : 2), height * 2) / 800;
    view.setAttribute("viewBox", `${low[0] - spare} ${low[1] - spare} ${isOver ? width : 2 * width} ${height}`);
    const mix = Number(find("mix").querySelector("input").value);
    const second = svg("g", { transform: isOver ? "" : `translate(${width} 0)` });
    second.append(picture(pair[1], isOver ? mix : 1), signs(scale));
    const first = svg("g");
    first.append(picture(pair[0], isOver ? 1 - mix : 1), signs(scale));
    view.replaceChildren(first, second);
    find("mix").classList.toggle("invisible", !isOver);
    find("side").setAttribute("aria-pressed", !isOver);
    find("over").setAttribute("aria-pressed", isOver);
  }
  for (const name of ["left", "right"]) find(name).addEventListener("change", draw);
  find("mix").addEventListener("input", draw);
  find("side").addEventListener("click", () => {
    isOver = false;
    draw();
  });
  find("over").addEventListener("click", () => {
    isOver = true;
    draw();
  });

  return (part) => {
    id = part;
    const { drawings } = bench.part(id);
    if (drawings.length < 2) return notice(`${bench.part(id).name} has one drawing only; add another to compare.`);
    for (const [name, number] of [
      ["left", 0],
      ["right", 1],
    ]) {
      find(name).replaceChildren(...drawings.map((drawing) => new Option(drawing.name, drawing.id)));
      find(name).value = drawings[number].id;
    }
    dialog.showModal();
    return draw();
  };
}
