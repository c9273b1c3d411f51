// The menu of shapes: how picked keys are passed, how their handles lie, and what their channels do outside the keys.

import { allow } from "../../elements/fields.js";
import { isStep } from "../../state/facts.js";
import { openAbove } from "../../elements/popovers.js";
import { mountKeyNumbers } from "../keys/key_numbers.js";

/** @param {Bench} bench */
export function mountShapes(root, menu, bench, acts) {
  const button = root.querySelector("[data-time=shape]");
  const bounces = menu.querySelector("[data-time=bounces]");
  const items = (name) => menu.querySelectorAll(`[data-${name}]`);
  const needsKeys = menu.querySelectorAll("[role=menuitem], [data-time=bounces]");
  const needsTwo = items("shape-like")[0];

  /** The channels of the picked keys or, where none is picked, all of the picked parts. */
  function channels() {
    const keys = bench.pickedKeys.length
      ? bench.pickedKeys.filter(({ channel }) => !isStep(channel)).map(({ part, channel }) => [part, channel])
      : bench.picked.flatMap((part) => Object.keys(bench.part(part).channels).map((channel) => [part, channel]));
    return [...new Map(keys.map((key) => [key.join(), key])).values()];
  }

  const wholeFrames = menu.querySelector("[data-time=whole-frames]");
  wholeFrames.addEventListener("change", () => bench.setWholeFrames(wholeFrames.checked));
  const fillNumbers = mountKeyNumbers(menu, bench, acts.keepPicked);
  const openAt = openAbove(button, menu, () => {
    fillNumbers();
    const isPicked = bench.pickedKeys.length > 0;
    menu.querySelector("[data-time=no-keys]").hidden = isPicked;
    for (const item of needsKeys) item.disabled = !isPicked;
    allow(needsTwo, likeAndKeys(), "Pick the keys that are to be shaped, and last, with Shift, the key whose shape they take");
    wholeFrames.checked = bench.isWholeFrames;
    const known = channels().map(([part, channel]) => bench.part(part).channels[channel]);
    for (const select of items("outside")) {
      allow(select, known.length, "Pick a part that has keys");
      const kinds = new Set(known.map((channel) => channel[select.dataset.outside]));
      const unsaid = select.querySelector("option[value='']");
      unsaid.textContent = known.length ? "various" : "no keys";
      select.value = kinds.size === 1 ? [...kinds][0] : "";
    }
    menu.querySelector("button:not(:disabled), select:not(:disabled), input:not(:disabled)").focus();
  });
  menu.addEventListener("click", (event) => event.target.closest("[role=menuitem]") && menu.hidePopover());
  menu.addEventListener("keydown", (event) => {
    event.stopPropagation();
    const all = [...menu.querySelectorAll(":is(button, input, select):not(:disabled)")];
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (!step || event.target.matches("select")) return;
    event.preventDefault();
    all[(all.indexOf(document.activeElement) + step + all.length) % all.length].focus();
  });

  /** The key picked last, whose shape the others are to take; null where no two are picked. */
  function likeAndKeys() {
    const picked = bench.pickedKeys.filter(({ channel }) => !isStep(channel));
    return picked.length > 1 ? { like: picked.at(-1), keys: picked.slice(0, -1) } : null;
  }

  for (const item of items("segment-item")) item.addEventListener("click", () => acts.makeSegments(item.dataset.segmentItem));
  for (const item of items("shape-item"))
    item.addEventListener("click", () =>
      bench.keep([
        {
          edit: "shape_segments",
          keys: bench.pickedKeys,
          shape: item.dataset.shapeItem,
          bounces: Math.round(Number(bounces.value)) || 3,
        },
      ]),
    );
  for (const item of items("handles-item"))
    item.addEventListener("click", () => bench.keep([{ edit: "lay_handles", keys: bench.pickedKeys, way: item.dataset.handlesItem }]));
  items("delete-keys")[0].addEventListener("click", () => acts.deleteKeys());
  needsTwo.addEventListener("click", () => bench.keep([{ edit: "shape_like", .../** @type {any} */ (likeAndKeys()) }]));
  for (const select of items("outside"))
    select.addEventListener("change", () =>
      bench.keep(channels().map(([part, channel]) => ({ edit: "set_outside", part, channel, [select.dataset.outside]: select.value }))),
    );
  return openAt;
}
