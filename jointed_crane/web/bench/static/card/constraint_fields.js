// What a constraint of one kind asks besides its goals and numbers: which point of the art, how many joints, which contour.

import { fieldsOf } from "../state/facts.js";

/**
 * Points of a part by words: its pivot, its centre and sides, its eyelets.
 * @param {Bench} bench
 */
function ownPoints(bench, id) {
  const { pivot, eyelets } = bench.part(id);
  const bounds = bench.drawingOf(id)?.bounds;
  const result = [["its pivot", pivot]];
  if (bounds) {
    const [left, top, right, bottom] = bounds;
    const [x, y] = [(left + right) / 2, (top + bottom) / 2];
    result.push(
      ["its centre", [x, y, 0]],
      ["left middle", [left, y, 0]],
      ["right middle", [right, y, 0]],
      ["upper middle", [x, top, 0]],
      ["lower middle", [x, bottom, 0]],
    );
  }
  return [...result, ...eyelets.map(({ name, point }) => [name, point])];
}

function labelled(words, field) {
  const label = document.createElement("label");
  label.className = "mt-1.5 flex items-center gap-1.5 text-small text-mute";
  label.append(words, field);
  return label;
}

function choice(label, options, now, set) {
  const select = document.createElement("select");
  select.className = "h-6 min-w-0 grow rounded-md border border-line bg-card px-1 text-ink";
  select.setAttribute("aria-label", label);
  const current = JSON.stringify(now);
  const known = options.map(([words, value]) => [words, JSON.stringify(value)]);
  if (!known.some(([, value]) => value === current)) known.push(["a point of its own", current]);
  for (const [words, value] of known) select.append(new Option(words, value));
  select.value = current;
  select.addEventListener("change", () => set(JSON.parse(select.value)));
  return select;
}

function count(label, now, low, high, set) {
  const input = document.createElement("input");
  input.className = "text-field h-6! w-14! px-1.5!";
  Object.assign(input, { type: "number", min: low, max: high, value: now });
  input.setAttribute("aria-label", label);
  input.addEventListener("keydown", (event) => event.stopPropagation());
  input.addEventListener("change", () => set(Math.min(Math.max(Math.round(input.valueAsNumber) || low, low), high)));
  return input;
}

/**
 * The elements for one constraint of the picked part; `change(fields)` keeps some of its fields changed.
 * @param {Bench} bench
 */
export function constraintFields(bench, constraint, change) {
  const points = ownPoints(bench, bench.lead);
  return [
    ...fieldsOf(constraint.kind, "count").map((field) => counted(constraint, field, change)),
    ...fieldsOf(constraint.kind, "point").flatMap((field) => pointed(constraint, field, points, bench.isDeep, change)),
  ];
}

/** What somebody hears who does not see where a field stands. */
const heard = (label, name, number) => label.replace("{name}", name).replace("{number}", number);

/** A whole number, which people count from `first` more than it is stored. */
function counted(constraint, { name, words, label, least, most, first }, change) {
  const set = (number) => change({ [name]: number - first });
  return labelled(words[0], count(heard(label, constraint.name), constraint[name] + first, least + first, most + first, set));
}

/** A point of the art or a row of them, or what may stand instead of one. */
function pointed(constraint, { name, words, label, others, deep, has_pivot: hasPivot }, points, isDeep, change) {
  const held = constraint[name];
  const offered = Object.entries(others).filter(([, value]) => isDeep || value === held || !deep.includes(value));
  const choices = [...offered, ...(hasPivot ? points : points.slice(1))];
  const isRow = words.length > 1;
  return (isRow ? held : [held]).map((point, end) => {
    const set = (to) => change({ [name]: isRow ? held.with(end, to) : to });
    return labelled(words[end], choice(heard(label, constraint.name, end + 1), choices, point, set));
  });
}
