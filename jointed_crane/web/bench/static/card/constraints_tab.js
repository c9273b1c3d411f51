// The Constraints tab of the card: what places the picked part from others, in the order in which they act.

import { heldDown } from "../elements/drawing.js";
import { mountField, nameInput, smallButton, ticked, tickedWords } from "../elements/fields.js";
import { goalChoice } from "./goal_choice.js";
import { fieldsOf, goalEntries, numbersOf } from "../state/facts.js";
import { referringTo } from "../state/goals.js";
import { makeLinkRows } from "../board/link_rows.js";
import { linkable, linkForm } from "../board/linking.js";
import { makeChanges } from "./changes.js";
import { constraintFields } from "./constraint_fields.js";

/** @param {Bench} bench */
export function mountConstraintsTab(root, bench, acts) {
  const find = (name) => root.querySelector(`[data-rule=${name}]`);
  let drawn = "";
  let open = null; // the id of the constraint whose numbers are seen
  let fields = [];

  const isHeld = heldDown(root.querySelector("[data-panel=constraints]"), () => draw());

  const part = () => bench.part(bench.lead);
  const changes = makeChanges(bench, acts);
  const change = (constraint, fields) =>
    bench.keep([{ edit: "change_constraint", part: bench.lead, constraint: { ...constraint, ...fields } }]);

  find("add").addEventListener("click", () => acts.constrain(find("kind").value));

  function row(constraint, index) {
    const { id, name, kind } = constraint;
    const item = document.createElement("li");
    item.className = "rounded-md border border-line-soft bg-tray px-2 py-1";
    item.dataset.constraint = id;
    const under = document.createElement("div");
    under.className = "mt-1 flex flex-wrap items-center gap-1.5 text-small text-mute";
    under.append(kind, ...goals(constraint), ...changes(constraint));
    under.append(...choices(constraint, true, bench.isDeep, change));
    for (const side of fieldsOf(kind, "side")) {
      const [label] = side.words;
      under.append(smallButton(label, `${label}: ${name}`, () => change(constraint, { [side.name]: -constraint[side.name] })));
    }
    const toggle = () => {
      open = open === id ? null : id;
      draw();
    };
    item.append(headOf(bench, constraint, index, { change, toggle, isOpen: open === id }), under);
    if (open === id) item.append(...details(constraint));
    return item;
  }

  function goals(constraint) {
    return goalEntries(constraint).map(({ goal, words, set }) => {
      const label = document.createElement("label");
      label.className = "flex items-center gap-1 text-small text-mute";
      const choice = goalChoice(bench, goal, `${words}: goal of ${constraint.name}`, (other) => change(constraint, set(other)));
      label.append(words, choice);
      return label;
    });
  }

  function details(constraint) {
    const others = document.createElement("div");
    others.className = "mt-1.5 flex flex-wrap gap-x-3 gap-y-1";
    others.append(...choices(constraint, false, bench.isDeep, change));
    const numbers = document.createElement("div");
    numbers.className = "mt-1.5 grid grid-cols-2 items-center gap-1.5";
    for (const name of numbersOf(constraint, bench.isDeep)) numbers.append(...numberField(bench, find("field"), fields, constraint, name));
    const keep = smallButton("Keep as keys", `${constraint.name}: put keys in its place`, () => acts.keepAsKeys(constraint.id));
    keep.classList.add("mt-1.5");
    return [others, ...constraintFields(bench, constraint, (fields) => change(constraint, fields)), numbers, keep];
  }

  /** The list is made anew when a constraint changes; while a number is dragged only the fields are. */
  function draw() {
    if (!bench.lead) return;
    const { constraints, links } = part();
    const now = JSON.stringify([bench.picked, open, constraints, links, constraints.map(({ id }) => acts.matchWords(id)), bench.version]);
    if (now !== drawn && !isHeld()) {
      drawn = now;
      fields = [];
      find("list").replaceChildren(...part().constraints.map(row));
      const linkRow = makeLinkRows(bench, find("field"), fields);
      find("links").replaceChildren(...part().links.map((link) => linkRow(bench.lead, link, false)));
      find("driving").replaceChildren(drivenBy(bench));
      const referring = referringTo(bench, [bench.lead]);
      find("goal-of").textContent = referring.length ? `Goal of ${referring.join(", ")}.` : "";
      find("none").hidden = part().constraints.length + part().links.length > 0 || referring.length > 0;
    }
    for (const field of fields) field();
  }

  return { draw };
}

/** The choices of a constraint, those that are asked first or the others. */
function choices(constraint, areFirst, isDeep, change) {
  return fieldsOf(constraint.kind, "choice")
    .filter((choice) => choice.is_first === areFirst && (isDeep || !choice.is_deep || constraint[choice.name]))
    .map(({ name, words }) => tickedWords(words[0], constraint[name], (checked) => change(constraint, { [name]: checked })));
}

/**
 * Whether a constraint acts, its name, and what opens it, lets it act earlier and takes it off.
 * @param {Bench} bench
 */
function headOf(bench, constraint, index, { change, toggle, isOpen }) {
  const { id, name } = constraint;
  const head = document.createElement("div");
  head.className = "flex items-center gap-1.5";
  const isOn = ticked(`${name} acts`, constraint.is_on, (checked) => change(constraint, { is_on: checked }));
  const words = nameInput(name, `Name of constraint ${name}`, "h-6 min-w-0 grow rounded-md border border-line bg-card px-1.5", (to) =>
    change(constraint, { name: to }),
  );
  const more = smallButton(isOpen ? "Less" : "More", `${isOpen ? "Less" : "More"} of ${name}`, toggle);
  more.setAttribute("aria-expanded", isOpen);
  head.append(isOn, words, more);
  if (index)
    head.append(
      smallButton("↑", `${name} acts earlier`, () =>
        bench.keep([{ edit: "order_constraint", part: bench.lead, constraint: id, to: index - 1 }]),
      ),
    );
  head.append(smallButton("×", `Delete ${name}`, () => bench.keep([{ edit: "remove_constraint", part: bench.lead, constraint: id }])));
  return head;
}

/**
 * A number of a constraint: its label, and its field, whose drawing is put among `draws`.
 * @param {Bench} bench
 */
function numberField(bench, template, draws, constraint, name) {
  const channel = `constraint.${constraint.id}.${name}`;
  const { label, unit, neutral } = bench.channel(channel);
  const words = document.createElement("span");
  words.className = "text-small text-mute";
  words.textContent = label;
  const field = template.content.firstElementChild.cloneNode(true);
  field.dataset.channel = channel;
  field.querySelector("input").setAttribute("aria-label", `${label} of ${constraint.name}`);
  field.querySelector(".unit").textContent = unit === "deg" ? "°" : unit;
  const edits = (value) => [{ edit: "set_values", parts: [bench.lead], values: { [channel]: value }, frame: bench.at }];
  const read = () =>
    bench.lead && bench.part(bench.lead).constraints.some(({ id }) => id === constraint.id) ? bench.value(bench.lead, channel) : null;
  draws.push(
    mountField(
      field,
      { read, edits, neutral, step: unit ? 1 : 0.05, digits: 3, isKeyed: () => bench.isKeyed(bench.lead, channel) },
      bench.previewer,
    ),
  );
  return [words, field];
}

/**
 * Has the part driven by another one that is picked too.
 * @param {Bench} bench
 */
function drivenBy(bench) {
  const { name } = bench.part(bench.lead);
  return linkForm(bench, {
    sources: bench.picked.slice(0, -1).flatMap((other) => linkable(bench, other)),
    targets: linkable(bench, bench.lead),
    drives: `What drives ${name}`,
    driven: `What of ${name} is driven`,
    act: `That channel drives ${name}`,
    hint: "To have a channel of another part drive it, pick that part too, this one last.",
  });
}
