// What the server knows and the page asks: channels, kinds of constraints, numbers of shapes. Said once, when the page begins.

/** Filled by `learn`: channels and numbers by name, kinds of constraints, forms of shapes, edits that set values alone, keys that were changed, and the mat's square, px. */
export const facts = { channels: {}, numbers: {}, constraints: {}, formNumbers: {}, valueEdits: [], sides: {}, keys: {}, square: 0 };

export const learn = (known) => Object.assign(facts, known);

/** A channel of a node of a pen path, "node.3.in.x"; people count nodes from 1. */
function nodeChannel(name) {
  const [family, number, ...rest] = name.split(".");
  const side = facts.nodes.sides[rest.length > 1 ? `${rest[0]}.` : ""];
  return { ...facts.nodes.kind, family, name, label: `${side} ${Number(number) + 1} ${rest.at(-1)}` };
}

/** A number of a constraint, "constraint.<id>.<number>". */
function numberChannel(name) {
  const [, number, place] = name.match(/^constraint\..+\.([a-z]+)(\d*)$/s) ?? [];
  const known = facts.numbers[number];
  return known && { ...known, name, label: `${known.label} ${place}`.trim() };
}

/** What is known of a channel by its name. */
export const channelKind = (name) => facts.channels[name] ?? numberChannel(name) ?? nodeChannel(name);

/** The fields of a constraint that are declared as something: "goal", "point", "choice", "side", "count" or "change". */
export const fieldsOf = (kind, role) => facts.constraints[kind].fields.filter((field) => field.role === role);

/** What a constraint refers to by its declared goals: {goal, words, set(goal)} gives the fields with that one exchanged. */
export function goalEntries(constraint) {
  return fieldsOf(constraint.kind, "goal").flatMap(({ name, words }) => {
    const held = constraint[name];
    if (!Array.isArray(held)) return held ? [{ goal: held, words: words[0], set: (goal) => ({ [name]: goal }) }] : [];
    return held.map((goal, index) => ({ goal, words: words[index] ?? "and", set: (other) => ({ [name]: held.with(index, other) }) }));
  });
}

/** The frames from which a constraint changes hands: {frame, part} of what carries, {frame, to} of what reaches or is turned. */
export const changesOf = (constraint) => fieldsOf(constraint.kind, "change").flatMap(({ name }) => constraint[name]);

/** What takes hold of a part from a frame on, as keys are picked: its footholds, and what its constraints change. */
export const stepsOf = (/** @type {Part} */ { footholds, constraints }) => [
  ...footholds.map(({ frame }) => ({ channel: "footholds", frame })),
  ...constraints.flatMap((one) => changesOf(one).map(({ frame }) => ({ channel: `changes.${one.id}`, frame }))),
];

/** Whether what is picked is one of those, and no key. */
export const isStep = (/** @type {string} */ channel) => channel === "footholds" || channel.startsWith("changes.");

/** The goals of a constraint, of whatever kind; who carries is one too. */
export const goalsOf = (constraint) => [
  ...goalEntries(constraint).map(({ goal }) => goal),
  ...changesOf(constraint).flatMap(({ part }) => (part ? [{ at: "pivot", part }] : [])),
];

/** The names of a constraint's numbers; those that lead out of the plane of the stage only where there is depth. */
export function numbersOf(constraint, isDeep) {
  const count = goalsOf(constraint).length;
  const isThere = ({ name, goals }) => (isDeep || !facts.numbers[name].is_deep) && (!goals || (goals[0] <= count && count <= goals[1]));
  const named = ({ name, is_row: isRow }) => (isRow ? Array.from({ length: count }, (_, index) => `${name}${index + 1}`) : [name]);
  return facts.constraints[constraint.kind].numbers.filter(isThere).flatMap(named);
}
