// The sheets of curves: parts between their keys, sways, and sways and cycles turned into keys.

import { notice } from "../../notices.js";
import { arithmetic } from "../card/fields.js";
import { readable } from "../drawing.js";
import { mountPreviewed } from "./previewed.js";

/** How far the picked parts are on their way from the keys before this frame to those after it. */
export function mountBetween(dialog, bench) {
  const { share, slide } = dialog.querySelector("form").elements;
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [{ edit: "in_between", parts: bench.picked, frame: bench.frame, share: (arithmetic(share.value) ?? 50) / 100 }],
    lines: () =>
      bench.picked.flatMap((id) => {
        const keyed = Object.keys(bench.part(id).channels).filter((channel) => bench.keyAt(id, channel, bench.frame));
        return keyed.map((channel) => [`${bench.part(id).name}, ${bench.channels[channel].label}`, readable(bench.keyAt(id, channel, bench.frame).value, 2)]);
      }),
  });
  slide.addEventListener("input", () => (share.value = slide.value));
  share.addEventListener("input", () => (slide.value = arithmetic(share.value) ?? slide.value));
  return async () => {
    if (!bench.picked.length) return notice("No part is picked. Pick the parts that are to lie between their keys first.");
    await bench.setMotion(true);
    slide.focus();
    return open();
  };
}

/** How a channel of the picked parts swings by itself. */
export function mountSway(dialog, bench) {
  const { channel, amount, period, phase } = dialog.querySelector("form").elements;
  const number = (field, otherwise) => arithmetic(field.value) ?? otherwise;
  const { open } = mountPreviewed(dialog, bench, {
    edits() {
      const sway = number(amount, 0) ? { amount: number(amount, 0), period: number(period, bench.fps), phase: number(phase, 0) } : null;
      return bench.picked.map((part) => ({ edit: "set_sway", part, channel: channel.value, sway }));
    },
    lines: () =>
      bench.picked.map((id) => {
        const { sway } = bench.part(id).channels[channel.value] ?? {};
        return [bench.part(id).name, sway ? `by ${readable(sway.amount, 2)} every ${readable(sway.period / bench.fps, 2)} s` : "does not sway"];
      }),
  });
  function fill() {
    const { sway } = bench.part(bench.lead).channels[channel.value] ?? {};
    amount.value = sway?.amount ?? 5;
    period.value = sway?.period ?? Math.round(bench.fps * 2);
    phase.value = sway?.phase ?? 0;
  }
  channel.addEventListener("change", fill);
  return async () => {
    if (!bench.lead) return notice("No part is picked. Pick the parts that are to sway first.");
    await bench.setMotion(true);
    const kinds = Object.entries(bench.channels).filter(([, kind]) => !kind.stepped && !kind.is_deep);
    channel.replaceChildren(...kinds.map(([name, kind]) => new Option(kind.label, name)));
    fill();
    return open();
  };
}

/** From where to where sways and cycles become keys, and how near to what they were. */
export function mountBake(dialog, bench) {
  const { first, last, tolerance } = dialog.querySelector("form").elements;
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [{ edit: "bake", first: arithmetic(first.value) ?? 0, last: arithmetic(last.value) ?? bench.stage.length - 1, tolerance: arithmetic(tolerance.value) ?? 0.05, parts: bench.picked }],
    lines(answer) {
      const found = answer.changed.flatMap(({ id }) =>
        Object.entries(bench.part(id).channels).flatMap(([name, channel]) =>
          channel === bench.parts.get(id).channels[name] ? [] : [[`${bench.part(id).name}, ${bench.channels[name].label}`, `${channel.keys.length} keys`]],
        ),
      );
      return found.length ? found : [["Nothing sways or goes on outside its keys here", ""]];
    },
  });
  return () => {
    first.value = 0;
    last.value = bench.stage.length - 1;
    return open();
  };
}
