// The sheets of curves: parts between their keys, sways, and sways and cycles turned into keys.

import { facts } from "../state/facts.js";
import { notice } from "../../notices.js";
import { allow, arithmetic } from "../elements/fields.js";
import { readable } from "../elements/drawing.js";
import { mountPreviewed } from "./previewed.js";

/**
 * How far the picked parts are on their way from the keys before this frame to those after it.
 * @param {Bench} bench
 */
export function mountBetween(dialog, bench) {
  const { share, slide } = dialog.querySelector("form").elements;
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [{ edit: "in_between", parts: bench.picked, frame: bench.frame, share: (arithmetic(share.value) ?? 50) / 100 }],
    lines: () =>
      bench.picked.flatMap((id) => {
        const keyed = Object.keys(bench.part(id).channels).filter((channel) => bench.keyAt(id, channel, bench.frame));
        return keyed.map((channel) => [
          `${bench.part(id).name}, ${bench.channel(channel).label}`,
          readable(bench.keyAt(id, channel, bench.frame).value, 2),
        ]);
      }),
  });
  slide.addEventListener("input", () => {
    share.value = slide.value;
  });
  share.addEventListener("input", () => {
    slide.value = arithmetic(share.value) ?? slide.value;
  });
  return async () => {
    if (!bench.picked.length) return notice("No part is picked. Pick the parts that are to lie between their keys first.");
    await bench.setMotion(true);
    slide.focus();
    return open();
  };
}

/**
 * How a channel of the picked parts swings by itself.
 * @param {Bench} bench
 */
export function mountSway(dialog, bench) {
  const { channel, amount, period, phase, spread, irregularity, begin, end, fade_in, fade_out, closes } =
    dialog.querySelector("form").elements;
  const again = dialog.querySelector("[data-sheet=again]");
  let seed = 1;
  const number = (field, otherwise) => (field.value.trim() ? (arithmetic(field.value) ?? otherwise) : otherwise);

  /** The sway of one of the picked parts: each has a seed of its own, and swings later than the one picked before it. */
  function sway(index) {
    if (!number(amount, 0)) return null;
    const fades = { fade_in: number(fade_in, 0), fade_out: number(fade_out, 0) };
    return {
      amount: number(amount, 0),
      period: number(period, bench.fps),
      phase: number(phase, 0) - index * number(spread, 0),
      irregularity: number(irregularity, 0),
      seed: seed + index,
      begin: number(begin, null),
      end: number(end, null),
      comes_round: closes.checked ? bench.stage.length - 1 : null,
      ...fades,
    };
  }
  const { open, preview } = mountPreviewed(dialog, bench, {
    edits: () => bench.picked.map((part, index) => ({ edit: "set_sway", part, channel: channel.value, sway: sway(index) })),
    lines: () =>
      bench.picked.map((id) => {
        const result = bench.part(id).channels[channel.value]?.sway;
        return [
          bench.part(id).name,
          result ? `by ${readable(result.amount, 2)} every ${readable(result.period / bench.fps, 2)} s` : "does not sway",
        ];
      }),
  });
  function fill() {
    const [known, next] = bench.picked.map((id) => bench.part(id).channels[channel.value]?.sway);
    const values = known ?? { amount: 5, period: Math.round(bench.fps * 2), phase: 0, irregularity: 0, fade_in: 0, fade_out: 0 };
    spread.value = readable(known && next ? known.phase - next.phase : 0, 3);
    allow(spread, bench.picked.length > 1, "With two parts or more picked: by how much of a swing each follows the one before");
    for (const field of [amount, period, phase, irregularity, begin, end, fade_in, fade_out]) field.value = values[field.name] ?? "";
    closes.checked = (known?.comes_round ?? null) !== null;
    seed = known?.seed ?? 1;
  }
  again.addEventListener("click", () => {
    seed += bench.picked.length;
    preview();
  });
  channel.addEventListener("change", fill);
  return async () => {
    if (!bench.lead) return notice("No part is picked. Pick the parts that are to sway first.");
    await bench.setMotion(true);
    const kinds = Object.entries(facts.channels).filter(
      ([, kind]) => !kind.stepped && !kind.is_deep && (kind.moves !== "shape" || bench.drawingOf(bench.lead)?.shape),
    );
    channel.replaceChildren(...kinds.map(([name, kind]) => new Option(kind.label, name)));
    fill();
    return open();
  };
}

/**
 * To which point of its art the pivot of the last picked part goes, with its motion unchanged at every frame.
 * @param {Bench} bench
 */
export function mountPivot(dialog, bench) {
  const { where, x, y, tolerance } = dialog.querySelector("form").elements;
  const { open, preview } = mountPreviewed(dialog, bench, {
    edits: () => [
      {
        edit: "move_pivot_throughout",
        part: bench.lead,
        point: [arithmetic(x.value) ?? 0, arithmetic(y.value) ?? 0],
        tolerance: arithmetic(tolerance.value) ?? 0.05,
      },
    ],
    lines: () =>
      ["move.x", "move.y"].map((name) => [bench.channel(name).label, `${bench.part(bench.lead).channels[name]?.keys.length ?? 0} keys`]),
  });
  where.addEventListener("change", () => {
    const bounds = bench.drawingOf(bench.lead)?.bounds;
    if (!where.value || !bounds) return;
    const [left, top, right, bottom] = bounds;
    const [share, down] = where.value.split(" ").map(Number);
    x.value = readable(left + share * (right - left), 3);
    y.value = readable(top + down * (bottom - top), 3);
    preview();
  });
  for (const field of [x, y])
    field.addEventListener("input", () => {
      where.value = "";
    });
  return async () => {
    if (!bench.lead) return notice("No part is picked. Pick the part whose pivot is to move first.");
    await bench.setMotion(true);
    where.value = "";
    [x.value, y.value] = bench.part(bench.lead).pivot.map((number) => readable(number, 3));
    const opened = open();
    x.select();
    return opened;
  };
}

/**
 * From where to where sways and cycles become keys, and how near to what they were.
 * @param {Bench} bench
 */
export function mountBake(dialog, bench) {
  const { first, last, tolerance } = dialog.querySelector("form").elements;
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [
      {
        edit: "bake",
        first: arithmetic(first.value) ?? 0,
        last: arithmetic(last.value) ?? bench.stage.length - 1,
        tolerance: arithmetic(tolerance.value) ?? 0.05,
        parts: bench.picked,
      },
    ],
    lines(answer) {
      const result = answer.changed.flatMap(({ id }) =>
        Object.entries(bench.part(id).channels).flatMap(([name, channel]) =>
          channel === bench.parts.get(id).channels[name]
            ? []
            : [[`${bench.part(id).name}, ${bench.channel(name).label}`, `${channel.keys.length} keys`]],
        ),
      );
      return result.length ? result : [["Nothing sways or goes on outside its keys here", ""]];
    },
  });
  return () => {
    first.value = 0;
    last.value = bench.stage.length - 1;
    return open();
  };
}
