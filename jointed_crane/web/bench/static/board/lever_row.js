// One lever on the board: its name, its picture, teaching, and behind "More" its range and what it drives.

import { svg } from "../elements/drawing.js";
import { mountField, nameInput, smallButton, tickedWords } from "../elements/fields.js";
import { AXES, leverEdits } from "../state/levers.js";
import { leverPicture } from "./lever_picture.js";
import { makeLinkRows } from "./link_rows.js";
import { linkable, linkForm } from "./linking.js";

/**
 * What gives the element of a lever; `state` says which one is open, `redraw` draws the board anew.
 * @param {Bench} bench
 */
export function makeLeverRow(bench, template, draws, state, redraw) {
  const { previewer } = bench;
  const linkRow = makeLinkRows(bench, template, draws);

  function number(label, spec, unit = "") {
    const element = template.content.firstElementChild.cloneNode(true);
    element.classList.add("grow", "basis-20");
    element.querySelector("input").setAttribute("aria-label", label);
    element.querySelector(".unit").textContent = unit;
    draws.push(mountField(element, { step: 0.1, digits: 3, ...spec }, previewer));
    return element;
  }

  return function row(id, width) {
    const item = document.createElement("li");
    item.className = `rounded-panel border px-2 py-1.5 ${bench.picked.includes(id) ? "border-lagoon bg-lagoon-light/40" : "border-line bg-card"}`;
    item.dataset.onBoard = id;
    const image = leverPicture(bench, id, width);
    draws.push(image.draw);
    const holder = svg("svg", { width, height: image.height, class: "my-1 block touch-none select-none" });
    holder.append(image.element);
    item.append(headOf(bench, id, state, redraw), holder, values(id), teaching(bench, id));
    if (state.open === id) item.append(...details(id));
    return item;
  };

  function values(id) {
    const { axes } = bench.part(id).lever;
    const holder = document.createElement("div");
    holder.className = "flex items-center gap-1";
    for (const [index, axis] of axes.entries()) {
      const channel = AXES[index];
      const edits = (value) => leverEdits(bench, id, { [channel]: value });
      const read = () => (bench.part(id) ? bench.value(id, channel) : null);
      holder.append(
        number(
          `${bench.channel(channel).label} of ${bench.part(id).name}`,
          { read, edits, neutral: axis.neutral, step: axis.step || (axis.high - axis.low) / 20, isKeyed: () => bench.isKeyed(id, channel) },
          index ? "up" : "",
        ),
      );
    }
    return holder;
  }

  function details(id) {
    const part = bench.part(id);
    const { axes, on_stage: isOnStage } = part.lever;
    /** @returns {Edit[]} */
    const lever = (fields) => [{ edit: "change_lever", part: id, lever: { axes, on_stage: isOnStage, ...fields } }];
    const result = axes.map((_, index) => {
      const numbers = document.createElement("div");
      numbers.className = "mt-1.5 grid grid-cols-2 gap-1";
      const now = () => bench.part(id)?.lever?.axes[index];
      for (const field of ["low", "neutral", "high", "step"]) {
        const edits = (value) =>
          lever({ axes: bench.part(id).lever.axes.map((other, at) => (at === index ? { ...other, [field]: value } : other)) });
        numbers.append(number(`${field} of ${part.name}${index ? " up" : ""}`, { read: () => now()?.[field] ?? null, edits }, field));
      }
      return numbers;
    });
    const choices = document.createElement("div");
    choices.className = "mt-1.5 flex items-center gap-2 text-small";
    choices.append(
      tickedWords("as a pad", axes.length === 2, (isPad) =>
        bench.keep(lever({ axes: isPad ? [axes[0], { ...axes[0] }] : axes.slice(0, 1) })),
      ),
      tickedWords("on the stage", isOnStage, (checked) => bench.keep(lever({ on_stage: checked }))),
    );
    choices.append(
      smallButton("×", `Take the lever ${part.name} away`, () => bench.keep([{ edit: "delete_parts", parts: [id], frame: bench.at }])),
    );
    const links = document.createElement("ol");
    links.className = "mt-1.5 space-y-1";
    for (const other of bench.order)
      for (const link of bench.part(other).links) if (link.source === id) links.append(linkRow(other, link, true));
    return [...result, choices, links, driving(bench, id)];
  }
}

/**
 * The name of a lever, and the button that opens and closes it.
 * @param {Bench} bench
 */
function headOf(bench, id, state, redraw) {
  const part = bench.part(id);
  const head = document.createElement("div");
  head.className = "flex items-center gap-1";
  const name = nameInput(
    part.name,
    `Name of the lever ${part.name}`,
    "h-6 min-w-0 grow rounded-md border border-transparent bg-transparent px-1 font-semibold hover:border-line",
    (to) => bench.keep([{ edit: "rename_part", part: id, name: to }]),
  );
  name.addEventListener("focus", () => bench.lead !== id && bench.pick([id]));
  const more = smallButton(state.open === id ? "Less" : "More", `${state.open === id ? "Less" : "More"} of ${part.name}`, () => {
    state.open = state.open === id ? null : id;
    redraw();
  });
  more.setAttribute("aria-expanded", state.open === id);
  head.append(name, more);
  return head;
}

/**
 * Has the parts picked besides the lever driven on a channel.
 * @param {Bench} bench
 */
function driving(bench, id) {
  const { name, lever } = bench.part(id);
  const others = bench.picked.filter((other) => other !== id && bench.part(other).kind !== "lever");
  return linkForm(bench, {
    sources: lever.axes.map((_, index) => ({ part: id, channel: AXES[index] })),
    targets: others.flatMap((other) => linkable(bench, other)),
    drives: `What of ${name} drives`,
    driven: `What ${name} is to drive`,
    act: `${name} drives that channel of it`,
    hint: "Pick the parts it is to drive.",
  });
}

/**
 * The buttons that begin and end teaching, one for each axis.
 * @param {Bench} bench
 */
function teaching(bench, id) {
  const holder = document.createElement("div");
  holder.className = "mt-1 flex items-center gap-1";
  for (const [index] of bench.part(id).lever.axes.entries()) {
    const channel = AXES[index];
    const isOn = bench.teaching?.lever === id && bench.teaching.channel === channel;
    const words = bench.part(id).lever.axes.length > 1 ? ` ${index ? "up" : "across"}` : "";
    const button = smallButton(
      isOn ? "Stop teaching" : `Teach${words}`,
      isOn ? `Stop teaching ${bench.part(id).name}` : `Teach ${bench.part(id).name}${words}: set it, pose the parts, then keep that`,
      () => bench.teach(isOn ? null : { lever: id, channel }),
    );
    button.setAttribute("aria-pressed", isOn);
    if (isOn) button.classList.add("button-main");
    holder.append(button);
  }
  return holder;
}
