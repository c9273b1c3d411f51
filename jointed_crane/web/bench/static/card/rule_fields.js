// What a constraint of one kind asks besides its goals and numbers: which point of the art, how many joints, which contour.

/** Points of a part by words: its pivot, its centre and sides, its eyelets. */
function ownPoints(bench, id) {
  const { pivot, eyelets } = bench.part(id);
  const bounds = bench.drawingOf(id)?.bounds;
  const found = [["its pivot", pivot]];
  if (bounds) {
    const [left, top, right, bottom] = bounds;
    const [x, y] = [(left + right) / 2, (top + bottom) / 2];
    found.push(["its centre", [x, y, 0]], ["left middle", [left, y, 0]], ["right middle", [right, y, 0]], ["upper middle", [x, top, 0]], ["lower middle", [x, bottom, 0]]);
  }
  return [...found, ...eyelets.map(({ name, point }) => [name, point])];
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

/** The elements for one constraint of the picked part; `change(fields)` keeps some of its fields changed. */
export function ruleFields(bench, constraint, change) {
  const { kind, name } = constraint;
  const points = ownPoints(bench, bench.lead);
  const others = points.filter(([words]) => words !== "its pivot");
  const made = {
    reach: () => [
      labelled("Joints that turn", count(`Joints of ${name}`, constraint.joints, 1, 32, (joints) => change({ joints }))),
      labelled("Brings", choice(`What ${name} brings to the goal`, [["its pivot", null], ...others], constraint.tip, (tip) => change({ tip }))),
    ],
    "point at": () => [labelled("Points by", choice(`What of it points for ${name}`, [["its x axis", "x"], ["its y axis", "y"], ...others], constraint.along, (along) => change({ along })))],
    span: () => constraint.points.map((point, end) => labelled(end ? "Held at the second by" : "Held at the first by", choice(`End ${end + 1} of ${name}`, points, point, (to) => change({ points: constraint.points.with(end, to) })))),
    "stay above": () => [labelled("Keeps above", choice(`What ${name} keeps above`, [["its whole outline", null], ...points], constraint.point, (point) => change({ point })))],
    "along a path": () => [labelled("Contour", count(`Contour of ${name}`, constraint.contour + 1, 1, 20000, (number) => change({ contour: number - 1 })))],
  };
  return made[kind]?.() ?? [];
}
