// What constraints refer to, as people say it.

import { facts, goalsOf } from "./facts.js";

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
export const referringTo = (bench, ids) => referring(bench, ids, (name, kind) => `${name} (${kind ?? "link"})`);

/**
 * What stops where some parts are deleted, as "Crate is no longer carried".
 * @param {Bench} bench
 */
export const stoppedWith = (bench, ids) =>
  referring(bench, ids, (name, kind) => `${name} ${kind ? facts.constraints[kind].without : "is no longer driven"}`);

/**
 * What is said of each part that is left, by its name and the kind of its constraint; links have none.
 * @param {Bench} bench
 * @param {(name: string, kind?: string) => string} said
 */
function referring(bench, ids, said) {
  return bench.order
    .filter((id) => !ids.includes(id))
    .flatMap((id) => {
      const { name, constraints, links } = bench.part(id);
      const result = constraints.filter((one) => goalsOf(one).some(({ part }) => ids.includes(part))).map(({ kind }) => said(name, kind));
      return links.some(({ source }) => ids.includes(source)) ? [...result, said(name)] : result;
    });
}
