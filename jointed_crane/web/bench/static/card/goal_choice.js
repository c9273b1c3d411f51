// A list of what a constraint may refer to.

import { goalWords } from "../state/goals.js";

/**
 * A list of all that may be a goal of the picked part; it is filled when it is opened, since scenes hold hundreds.
 * @param {Bench} bench
 */
export function goalChoice(bench, now, label, set) {
  const choice = document.createElement("select");
  choice.className = "h-6 min-w-0 max-w-32 rounded-md border border-line bg-card px-1 text-ink";
  choice.setAttribute("aria-label", label);
  choice.append(new Option(goalWords(bench, now), JSON.stringify(now)));
  for (const name of ["pointerdown", "focus"]) choice.addEventListener(name, fill);
  choice.addEventListener("change", () => set(JSON.parse(choice.value)));

  function fill() {
    if (choice.length > 1) return;
    const others = bench.order
      .filter((id) => id !== bench.lead)
      .flatMap((id) => {
        const { drawings, eyelets } = bench.part(id);
        return [
          { at: "pivot", part: id },
          ...(drawings.length ? [{ at: "centre", part: id }] : []),
          ...eyelets.map((eyelet) => ({ at: "eyelet", part: id, named: eyelet.id })),
        ];
      });
    for (const goal of [...bench.marks.map(({ id }) => ({ at: "mark", named: id })), ...others])
      choice.append(new Option(goalWords(bench, goal), JSON.stringify(goal)));
  }
  return choice;
}
