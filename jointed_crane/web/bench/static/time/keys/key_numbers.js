// The numbers of one picked key: where it stands, its value, and how far its handles reach.

import { arithmetic } from "../../elements/fields.js";
import { readable } from "../../elements/drawing.js";
import { isStep } from "../../state/facts.js";

const FIELDS = ["frame", "value", "in-frames", "in-value", "out-frames", "out-value"];

/**
 * Fills the fields when they are looked at; `keepPicked` keeps an edit and picks the key where it comes to stand.
 * @param {Bench} bench
 */
export function mountKeyNumbers(menu, bench, keepPicked) {
  const field = (name) => menu.querySelector(`[data-key-number=${name}]`);

  function theKey() {
    const [own] = bench.pickedKeys;
    return bench.pickedKeys.length === 1 && !isStep(own.channel) ? { own, key: bench.keyAt(own.part, own.channel, own.frame) } : {};
  }

  function fill() {
    const { own, key } = theKey();
    menu.querySelector("[data-key-number=words]").textContent = key
      ? bench.channelOf(own.part, own.channel)
      : "Pick one key to see its numbers";
    const values = key && {
      frame: key.frame,
      value: key.value,
      "in-frames": key.handle_in?.[0],
      "in-value": key.handle_in?.[1],
      "out-frames": key.handle_out?.[0],
      "out-value": key.handle_out?.[1],
    };
    for (const name of FIELDS) {
      field(name).disabled = !key;
      field(name).value = values?.[name] === undefined ? "" : readable(values[name], 4);
    }
  }

  function edit(name, value) {
    const { own, key } = theKey();
    if (name === "frame") return { edit: "move_keys", keys: [own], by: value - key.frame };
    if (name === "value") return { edit: "raise_keys", keys: [own], by: value - key.value };
    const handles = { in: key.handle_in, out: key.handle_out };
    const [side, axis] = name.split("-");
    const [frames, rise] = handles[side] ?? [0, 0];
    handles[side] = axis === "frames" ? [value, rise] : [frames, value];
    return { edit: "set_handles", keys: [own], handle_in: handles.in, handle_out: handles.out };
  }

  for (const name of FIELDS)
    field(name).addEventListener("change", async () => {
      const value = arithmetic(field(name).value);
      const { own } = theKey();
      if (value !== null && own) await keepPicked(edit(name, value), [name === "frame" ? { ...own, frame: value } : own]);
      fill();
    });
  return fill;
}
