// The sheet that lets parts follow each other: how far apart, in which order, and when each would set out.

import { post } from "../../api.js";
import { notice } from "../../notices.js";
import { arithmetic } from "../card/fields.js";
import { readable } from "../drawing.js";

export function mountStagger(dialog, bench) {
  const form = dialog.querySelector("form");
  const find = (name) => dialog.querySelector(`[data-stagger=${name}]`);
  const { amount, unit, order } = form.elements;
  let seed = 1;
  let asked = 0;

  function edit() {
    const value = arithmetic(amount.value) ?? 0;
    const step = unit.value === "share" ? { share: value / 100 } : { step: value };
    return { edit: "stagger", parts: bench.picked, ...step, order: order.value, seed };
  }

  const setsOut = (part) => Math.min(...Object.values(part.channels).flatMap(({ keys }) => keys.map((key) => key.frame)));

  /** The server says when each part would set out, or why not. */
  async function preview() {
    const number = (asked += 1);
    find("again").disabled = order.value !== "shuffled";
    try {
      const answer = await post(`${bench.path}/preview`, { version: bench.version, frame: bench.at, edits: [edit()] });
      if (number !== asked || !dialog.open) return;
      bench.show(answer);
      const parts = bench.picked.map((id) => bench.part(id)).filter((part) => Number.isFinite(setsOut(part)));
      parts.sort((one, other) => setsOut(one) - setsOut(other));
      find("list").replaceChildren(...parts.map((part) => line(part.name, `from frame ${readable(setsOut(part))}`)));
      find("problem").hidden = true;
    } catch (error) {
      if (error.status === undefined) throw error;
      if (number !== asked) return;
      find("problem").textContent = error.message;
      find("problem").hidden = false;
    }
  }

  function line(name, words) {
    const row = document.createElement("li");
    row.className = "flex gap-2";
    const [first, second] = [document.createElement("span"), document.createElement("span")];
    first.className = "w-1/2 truncate";
    second.className = "text-mute";
    [first.textContent, second.textContent] = [name, words];
    row.append(first, second);
    return row;
  }

  form.addEventListener("input", preview);
  find("again").addEventListener("click", () => {
    seed += 1;
    preview();
  });
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    if (await bench.keep([edit()])) dialog.close();
  });
  dialog.addEventListener("close", () => {
    asked += 1;
    bench.show(null);
  });

  return async () => {
    if (bench.picked.length < 2) return notice("Pick two parts or more that are to follow each other first.");
    await bench.setMotion(true);
    dialog.showModal();
    amount.select();
    await preview();
  };
}
