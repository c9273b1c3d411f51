// The numbers of three axes on the card: what moves, how its own axes lie, which turns are locked, and what is painted by depth.

import { facts } from "../state/facts.js";
import { mountField } from "../elements/fields.js";

/**
 * Mounts the fields; returns what draws each of them anew.
 * @param {any} root
 * @param {Bench} bench
 */
export function makeDepthNumbers(root, bench) {
  const find = (name) => root.querySelector(`[data-card=${name}]`);
  const draws = [...root.querySelectorAll("[data-deep]")].map((element) => channelField(element, bench));
  for (const element of root.querySelectorAll("[data-own-axis]")) draws.push(axesField(element, bench, () => find("axes-keep").value));
  for (const box of root.querySelectorAll("[data-locks]")) draws.push(lock(box, bench));
  draws.push(pivotField(find("pivot-px-z"), bench), ...choices(find, bench));

  const flat = [...root.querySelectorAll('[data-channel="turn.z"], [data-channel^="move."], [data-channel^="scale."]')];
  draws.push(() => {
    find("depth").hidden = !bench.isDeep;
    find("pivot-deep").hidden = !bench.isDeep;
    // The three axes take the place of the rows of the plane.
    for (const element of flat) element.closest(".grid").classList.toggle("is-deep", bench.isDeep);
  });
  return draws;
}

/** @param {Bench} bench */
function channelField(element, bench) {
  const name = element.dataset.deep;
  const { neutral, family } = facts.channels[name];
  const isScale = family === "scale";
  return mountField(
    element,
    {
      read: () => (bench.lead ? bench.value(bench.lead, name) : null),
      edits: (value, isPast) => [
        { edit: "set_values", parts: bench.picked, values: { [name]: value }, frame: bench.at, past_limits: isPast },
      ],
      neutral,
      step: isScale ? 0.05 : 1,
      digits: isScale ? 3 : 2,
      fixed: isScale,
      isShare: isScale,
      isKeyed: () => bench.lead && bench.isKeyed(bench.lead, name),
    },
    bench.previewer,
  );
}

/** How its own axes lie, as turns of its order. */
function axesField(element, bench, keeps) {
  const axis = "xyz".indexOf(element.dataset.ownAxis);
  const turns = () => (bench.rings?.part === bench.lead ? bench.rings.orientation : null);
  return mountField(
    element,
    {
      read: () => (bench.lead && turns() ? turns()[axis] : null),
      edits: (value) => [{ edit: "set_axes", part: bench.lead, turns: turns().with(axis, value), keep: keeps() }],
      neutral: 0,
      step: 1,
      digits: 2,
    },
    bench.previewer,
  );
}

/** @param {Bench} bench */
function lock(input, bench) {
  const channel = input.dataset.locks;
  input.addEventListener("change", () =>
    bench.keep([{ edit: "fix_channels", parts: bench.picked, channels: [channel], fixed: input.checked }]),
  );
  return () => {
    input.checked = Boolean(bench.lead) && bench.part(bench.lead).fixed.includes(channel);
  };
}

/** @param {Bench} bench */
function pivotField(element, bench) {
  return mountField(
    element,
    {
      read: () => (bench.lead ? bench.part(bench.lead).pivot[2] : null),
      edits: (z) => bench.picked.map((part) => ({ edit: "move_pivot", part, point: [null, null], z, keep: bench.keeps, frame: bench.at })),
      neutral: 0,
      step: 1,
      digits: 1,
    },
    bench.previewer,
  );
}

/** @param {Bench} bench */
function choices(find, bench) {
  const order = find("turn-order");
  order.addEventListener("change", () => bench.keep([{ edit: "set_placement", part: bench.lead, turn_order: order.value }]));
  const along = find("along");
  along.addEventListener("change", () => bench.setAlong(along.value));
  const label = find("painted-by");
  const painted = label.querySelector("select");
  painted.addEventListener("change", () =>
    bench.keep(bench.picked.map((part) => ({ edit: "set_placement", part, painted_by: painted.value }))),
  );
  return [
    () => {
      if (!bench.lead) return;
      const part = bench.part(bench.lead);
      order.value = part.turn_order;
      along.value = bench.along;
      label.hidden = !bench.children(bench.lead).length;
      painted.value = part.painted_by;
    },
  ];
}
