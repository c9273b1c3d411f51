// Links made by hand: which channels of a part may drive and be driven, and the choices that join two of them.

import { facts, numbersOf } from "../state/facts.js";
import { smallButton } from "../elements/fields.js";
import { freshId } from "../state/fresh_id.js";
import { AXES } from "../state/levers.js";
import { channelWords } from "./link_rows.js";

const MOST_NODES = 60; // more would make a list that nobody reads
/** What a new link adds for each unit, by whether what is driven has one. */
const IN_UNITS = { deg: 1, px: 1, "": 0.5 };

/**
 * The channels of a part that may drive others and be driven by them.
 * @param {Bench} bench
 */
export function linkable(bench, id) {
  const { lever, constraints } = bench.part(id);
  const axes = (lever?.axes ?? []).map((_, index) => AXES[index]);
  const isFlat = ({ name, family, is_deep: isDeep }) => !isDeep && (!name.endsWith(".z") || ["turn", "spin"].includes(family));
  const own = Object.values(facts.channels).filter((kind) => ["place", "look"].includes(kind.moves) && isFlat(kind));
  const numbers = constraints.flatMap((one) => numbersOf(one).map((number) => `constraint.${one.id}.${number}`));
  return [...axes, ...own.map(({ name }) => name), ...ofShape(bench, id), ...numbers].map((channel) => ({ part: id, channel }));
}

/**
 * The channels of a part's shape: its paint, its sides and radii, and the points of its nodes.
 * @param {Bench} bench
 */
function ofShape(bench, id) {
  const shape = bench.drawingOf(id)?.shape;
  if (!shape) return [];
  const { fill, stroke } = shape.paint;
  const paint = [
    ...(fill ? ["r", "g", "b"].map((letter) => `fill.${letter}`) : []),
    ...(stroke ? ["stroke.r", "stroke.g", "stroke.b", "stroke.width"] : []),
  ];
  const nodes =
    shape.form === "path"
      ? shape.contours
          .flat()
          .slice(0, MOST_NODES)
          .flatMap((_, number) => [`node.${number}.x`, `node.${number}.y`])
      : [];
  return [...paint, ...facts.formNumbers[shape.form], ...nodes];
}

/**
 * Two choices and a button that joins them; where there is nothing to choose, a hint.
 * @param {Bench} bench
 * @param {{
 *   sources: End[],
 *   targets: End[],
 *   drives: string,
 *   driven: string,
 *   act: string,
 *   hint: string,
 *   amount?: (channel: string) => number,
 * }} words
 */
export function linkForm(bench, { sources, targets, drives, driven, act, hint, amount }) {
  const holder = document.createElement("div");
  holder.className = "mt-1.5 flex flex-wrap items-center gap-1";
  if (!sources.length || !targets.length) {
    holder.className = "mt-1.5 text-small text-mute";
    holder.textContent = hint;
    return holder;
  }
  /** @type {[End[], string, string][]} */
  const asked = [
    [sources, drives, "basis-40"],
    [targets, driven, "basis-20"],
  ];
  const choices = asked.map(([ends, words, basis]) => {
    const choice = document.createElement("select");
    choice.className = `h-6 min-w-0 grow ${basis} rounded-md border border-line bg-card px-1 text-small`;
    choice.setAttribute("aria-label", words);
    for (const end of ends) choice.append(new Option(channelWords(bench, end.part, end.channel), JSON.stringify(end)));
    return choice;
  });
  const join = () => {
    const [source, target] = choices.map(({ value }) => JSON.parse(value));
    const step = amount?.(target.channel) ?? IN_UNITS[bench.channel(target.channel).unit] ?? 1;
    return bench.keep([
      {
        edit: "link",
        part: target.part,
        link: { id: freshId(), source: source.part, channel: source.channel, onto: target.channel, amount: step },
      },
    ]);
  };
  const between = document.createElement("span");
  between.className = "text-small text-mute";
  between.textContent = "drives";
  const [from, to] = choices;
  const button = smallButton("Link", act, join);
  // What pressing it will do, in words.
  const told = document.createElement("p");
  told.className = "w-full text-small text-mute";
  const tell = () => {
    told.textContent = `${from.selectedOptions[0].text} drives ${to.selectedOptions[0].text}.`;
  };
  for (const choice of choices) choice.addEventListener("change", tell);
  tell();
  holder.append(...(sources.length > 1 ? [from] : []), between, to, button, told);
  return holder;
}
