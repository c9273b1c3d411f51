// Links made by hand: which channels of a part may drive and be driven, and the choices that join two of them.

import { notice } from "../../notices.js";
import { facts, numbersOf } from "../state/facts.js";
import { readable } from "../elements/drawing.js";
import { smallButton } from "../elements/fields.js";
import { freshId } from "../state/fresh_id.js";
import { AXES } from "../state/levers.js";
import { channelWords } from "./link_rows.js";

const MOST_NODES = 60; // more would make a list that nobody reads
/**
 * The channels of a part that may drive others and be driven by them.
 * @param {Bench} bench
 */
export function linkable(bench, id) {
  const { lever, constraints } = bench.part(id);
  const axes = (lever?.axes ?? []).map((_, index) => AXES[index]);
  const isFlat = ({ name, family, is_deep: isDeep }) => !isDeep && (!name.endsWith(".z") || ["turn", "spin"].includes(family));
  const own = Object.values(facts.channels).filter((kind) => ["place", "look"].includes(kind.moves) && isFlat(kind));
  const numbers = constraints.flatMap((one) => numbersOf(one, bench.isDeep).map((number) => `constraint.${one.id}.${number}`));
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
 * Where both ends of a link stood when "From here" was pressed, while it waits for "To here".
 * @type {{ source: End, target: End, sourceWas: number, was: number } | null}
 */
let begun = null;

/**
 * Two choices and buttons that join them, by the ranges of both or from where they stand to where they will; where there
 * is nothing to choose, a hint.
 * @param {Bench} bench
 * @param {{ sources: End[], targets: End[], drives: string, driven: string, act: string, hint: string }} words
 */
export function linkForm(bench, { sources, targets, drives, driven, act, hint }) {
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
  const [from, to] = choices;
  /** @type {() => [End, End]} */
  const ends = () => [JSON.parse(from.value), JSON.parse(to.value)];
  const join = () => bench.keep([{ edit: "link_by_ranges", ...joined(...ends()) }]);
  const between = document.createElement("span");
  between.className = "text-small text-mute";
  between.textContent = "drives";
  // What pressing it will do, in words.
  const told = document.createElement("p");
  told.className = "w-full text-small text-mute";
  const here = smallButton("From here", "", async () => {
    await fromHere(bench, ends());
    tell();
  });
  const tell = () => {
    const isWaiting = isBegun(...ends());
    here.textContent = isWaiting ? "To here" : "From here";
    here.title = isWaiting
      ? "The other end: where both stand now. What is driven gets its own value from before back."
      : "One end: where both stand now. Then move both, and press it again.";
    told.textContent = isWaiting ? waiting(bench) : `${from.selectedOptions[0].text} drives ${to.selectedOptions[0].text}.`;
  };
  if (begun && [begun.source, begun.target].every((end, side) => asked[side][0].some((other) => isSame(end, other))))
    [from.value, to.value] = [begun.source, begun.target].map((end) => JSON.stringify(end));
  for (const choice of choices) choice.addEventListener("change", tell);
  tell();
  holder.append(...(sources.length > 1 ? [from] : []), between, to, smallButton("Link", act, join), here, told);
  return holder;
}

const isSame = (one, other) => one.part === other.part && one.channel === other.channel;

const joined = (source, target) => ({
  part: target.part,
  id: freshId(),
  source: source.part,
  channel: source.channel,
  onto: target.channel,
});

const isBegun = (source, target) => begun !== null && isSame(begun.source, source) && isSame(begun.target, target);

/**
 * Take where both ends of a link stand: first as one end of it, then as the other.
 * @param {Bench} bench
 * @param {[End, End]} ends
 */
async function fromHere(bench, [source, target]) {
  if (!bench.isMotion && bench.channel(source.channel).joins !== "replace")
    return notice("At rest only levers drive anything. Go to Motion, and take both ends there.");
  if (!isBegun(source, target)) {
    const [sourceWas, was] = [source, target].map(({ part, channel }) => bench.value(part, channel));
    begun = { source, target, sourceWas, was };
    return;
  }
  const { sourceWas, was } = begun;
  const isKept = await bench.keep([{ edit: "link_from_here", ...joined(source, target), source_was: sourceWas, was, frame: bench.at }]);
  if (isKept) begun = null;
}

/**
 * What waits for "To here", in words.
 * @param {Bench} bench
 */
function waiting(bench) {
  const at = ({ part, channel }, value) => `${channelWords(bench, part, channel)} at ${withUnit(bench, channel, value)}`;
  return `From ${at(begun.source, begun.sourceWas)} and ${at(begun.target, begun.was)}: move both, then press To here.`;
}

/**
 * A value of a channel as people read it.
 * @param {Bench} bench
 */
function withUnit(bench, channel, value) {
  const { unit } = bench.channel(channel);
  return `${readable(value, 3)}${unit === "deg" ? "°" : unit && ` ${unit}`}`;
}
