// The sheets of time: parts that follow each other, and whole turns between two frames.

import { notice } from "../../notices.js";
import { allow, arithmetic } from "../elements/fields.js";
import { readable } from "../elements/drawing.js";
import { mountPreviewed } from "./previewed.js";

const setsOut = (part) => Math.min(...Object.values(part.channels).flatMap(({ keys }) => keys.map((key) => key.frame)));

/**
 * How far apart parts follow each other, in which order, and when each would set out.
 * @param {Bench} bench
 */
export function mountStagger(dialog, bench) {
  const { amount, unit, order } = dialog.querySelector("form").elements;
  const again = dialog.querySelector("[data-sheet=again]");
  let seed = 1;

  const { open, preview } = mountPreviewed(dialog, bench, {
    edits() {
      allow(again, order.value === "shuffled", "For a shuffled order");
      const value = arithmetic(amount.value) ?? 0;
      const step = unit.value === "share" ? { share: value / 100 } : { step: value };
      return [{ edit: "stagger", parts: bench.picked, ...step, order: order.value, seed, is_whole: bench.isWholeFrames }];
    },
    lines() {
      const parts = bench.picked.map((id) => bench.part(id)).filter((part) => Number.isFinite(setsOut(part)));
      parts.sort((one, other) => setsOut(one) - setsOut(other));
      return parts.map((part) => [part.name, `from frame ${readable(setsOut(part))}`]);
    },
  });
  again.addEventListener("click", () => {
    seed += 1;
    preview();
  });
  return async () => {
    if (bench.picked.length < 2) return notice("Pick two parts or more that are to set out one after the other first.");
    await bench.setMotion(true);
    amount.select();
    return open();
  };
}

/**
 * Frames put in before this one, or taken out from it on, of the picked parts or of all.
 * @param {Bench} bench
 */
export function mountFrames(dialog, bench) {
  const { count, way, whose } = dialog.querySelector("form").elements;
  const parts = () => (whose.value === "picked" ? bench.picked : []);
  const more = () => Math.round(arithmetic(count.value) ?? 0) * (way.value === "in" ? 1 : -1);
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [{ edit: "insert_frames", frame: bench.frame, count: more(), parts: parts() }],
    lines: () => [
      [parts().length ? "The scene stays" : "The scene becomes", `${bench.stage.length + (parts().length ? 0 : more())} frames long`],
    ],
  });
  return async () => {
    await bench.setMotion(true);
    whose.options[1].disabled = !bench.picked.length;
    whose.value = bench.picked.length ? "picked" : "all";
    count.select();
    return open();
  };
}

/**
 * How often the picked parts go round, which way, about which point and until when.
 * @param {Bench} bench
 */
export function mountTurns(dialog, bench) {
  const { turns, way, channel, until, segment } = dialog.querySelector("form").elements;
  const { open } = mountPreviewed(dialog, bench, {
    edits() {
      const count = Math.round(arithmetic(turns.value) ?? 0) * (way.value === "clockwise" ? 1 : -1);
      const frames = { frame: bench.frame, until: arithmetic(until.value) ?? bench.frame };
      return [{ edit: "turn_round", parts: bench.picked, turns: count, ...frames, channel: channel.value, segment: segment.value }];
    },
    lines: () =>
      bench.picked.map((id) => {
        const key = bench.part(id).channels[channel.value]?.keys.findLast(({ frame }) => frame <= arithmetic(until.value));
        return [bench.part(id).name, key ? `reads ${readable(key.value, 1)}° at frame ${readable(key.frame)}` : "stays"];
      }),
  });
  return async () => {
    if (!bench.picked.length) return notice("No part is picked. Pick the parts that are to go round first.");
    await bench.setMotion(true);
    until.value = Math.min(bench.frame + Math.round(bench.fps), bench.stage.length - 1);
    turns.select();
    return open();
  };
}

/**
 * Over how many corners of its outline the last picked part tumbles, to which side and until when.
 * @param {Bench} bench
 */
export function mountRoll(dialog, bench) {
  const { corners, side, until, segment } = dialog.querySelector("form").elements;
  const last = () => arithmetic(until.value) ?? bench.frame;
  const { open } = mountPreviewed(dialog, bench, {
    edits: () => [
      {
        edit: "roll",
        part: bench.lead,
        frame: bench.frame,
        until: last(),
        corners: Math.round(arithmetic(corners.value) ?? 0),
        side: side.value,
        segment: segment.value,
      },
    ],
    lines() {
      const { channels, footholds } = bench.part(bench.lead);
      const turns = new Map(channels["turn.z"].keys.map((key) => [key.frame, key.value]));
      const rolled = footholds.filter(({ frame }) => frame >= bench.frame && frame < last());
      return [...rolled.map(({ frame }) => frame), last()].map((frame) => [
        `Frame ${readable(frame, 1)}`,
        `turned ${readable(turns.get(frame) ?? 0, 1)}°`,
      ]);
    },
  });
  return async () => {
    if (!bench.lead) return notice("No part is picked. Pick the part that is to roll first.");
    await bench.setMotion(true);
    until.value = Math.min(bench.frame + 2 * Math.round(bench.fps), bench.stage.length - 1);
    corners.select();
    return open();
  };
}
