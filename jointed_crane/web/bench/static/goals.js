// What constraints refer to, as people say it.

/** A goal as people say it. */
export function goalWords(bench, { at, part, named }) {
  if (at === "mark") return `mark ${bench.marks.find(({ id }) => id === named)?.name ?? ""}`;
  const { name, eyelets } = bench.part(part);
  if (at === "eyelet") return `${eyelets.find(({ id }) => id === named)?.name ?? "eyelet"} of ${name}`;
  return { pivot: name, centre: `centre of ${name}`, point: `point of ${name}` }[at];
}

/** The goals of a constraint, of whatever kind. */
export const goalsOf = ({ goal, goals, first, second, line, towards }) => goals ?? [goal, first, second, line, towards].filter(Boolean);

/** The constraints that refer to one of some parts, as "Hand (reach)". */
export function referringTo(bench, ids) {
  return bench.order.filter((id) => !ids.includes(id)).flatMap((id) => {
    const { name, constraints } = bench.part(id);
    return constraints.filter((one) => goalsOf(one).some(({ part }) => ids.includes(part))).map(({ kind }) => `${name} (${kind})`);
  });
}
