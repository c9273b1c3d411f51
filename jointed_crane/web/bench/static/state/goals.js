// What constraints refer to, as people say it.

import { goalsOf } from "./facts.js";

/**
 * A goal as people say it.
 * @param {Bench} bench
 * @param {{ at?: string, part?: string, named?: string }} goal
 */
export function goalWords(bench, { at, part, named }) {
  if (at === "mark") return `mark ${bench.marks.find(({ id }) => id === named)?.name ?? ""}`;
  const { name, eyelets } = bench.part(part);
  if (at === "eyelet") return `${eyelets.find(({ id }) => id === named)?.name ?? "eyelet"} of ${name}`;
  return { pivot: name, centre: `centre of ${name}`, point: `point of ${name}` }[at];
}

/**
 * What a change of hands is from its frame on, in words.
 * @param {Bench} bench
 */
export const changeWords = (bench, { part, to }) =>
  ({ reach: "reaches", turn: "by hand" })[to] ?? (part ? bench.part(part).name : "put down");

/**
 * The constraints that refer to one of some parts and the links from them, as "Hand (reach)".
 * @param {Bench} bench
 */
export function referringTo(bench, ids) {
  return bench.order
    .filter((id) => !ids.includes(id))
    .flatMap((id) => {
      const { name, constraints, links } = bench.part(id);
      const referring = constraints
        .filter((one) => goalsOf(one).some(({ part }) => ids.includes(part)))
        .map(({ kind }) => `${name} (${kind})`);
      return links.some(({ source }) => ids.includes(source)) ? [...referring, `${name} (link)`] : referring;
    });
}
