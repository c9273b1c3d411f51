// What is done to parts in time: they stand, appear, hold still, show drawings, lie before others; and what frames are named.

import { notice } from "../../../notices.js";

/** The nearest of some frames that lies beyond another, later for a step of 1 and earlier for -1; null where none does. */
function nearestBeyond(frames, from, step) {
  const beyond = frames.filter((frame) => (frame - from) * step > 1e-6);
  return beyond.length ? beyond.reduce((one, other) => (Math.abs(other - from) < Math.abs(one - from) ? other : one)) : null;
}

/** @param {Bench} bench */
export function makePartActs(bench) {
  return {
    /** The frames of a new span: those of the picked keys, or a second from this frame on. */
    spanHere() {
      const frames = bench.pickedKeys.length ? bench.pickedKeys.map((key) => key.frame) : [bench.frame];
      const [first, last] = [Math.min(...frames), Math.max(...frames)];
      return { frame: first, until: last > first ? last : Math.min(first + Math.round(bench.fps) - 1, bench.stage.length - 1) };
    },
    /** Go to the key after this frame, or before it: of the picked parts, or of all where none is picked. */
    toKey(step) {
      const ids = bench.picked.length ? bench.picked : bench.order;
      const frames = ids.flatMap((id) => Object.values(bench.part(id).channels).flatMap(({ keys }) => keys.map(({ frame }) => frame)));
      const next = nearestBeyond(frames, bench.frame, step);
      return next === null ? notice(`No key stands ${step > 0 ? "after" : "before"} frame ${bench.frame}.`) : bench.seek(next);
    },
    /** Pick the marker after this frame, or before it, and go to it; after the last comes the first. */
    toMarker(step) {
      const { markers } = bench.stage;
      if (!markers.length) return notice("There is no marker yet. “Add a marker” makes one here.");
      const frames = markers.map(({ frame }) => frame);
      const next = nearestBeyond(frames, bench.frame, step) ?? (step > 0 ? Math.min(...frames) : Math.max(...frames));
      bench.pickMarker(markers.find(({ frame }) => frame === next).id);
      return bench.seek(next);
    },
    /** From this frame on each picked part stands on a point of its box, or on its pivot. */
    async standOn(fraction) {
      if (!bench.picked.length) return notice("No part is picked. Pick the part that is to stand first.");
      await bench.seek(bench.frame);
      const stand = (part) =>
        fraction
          ? { point: fraction, unit: /** @type {const} */ ("fraction") }
          : { point: bench.part(part).pivot.slice(0, 2), unit: /** @type {const} */ ("art") };
      return bench.keep(bench.picked.map((part) => ({ edit: "set_foothold", part, frame: bench.frame, ...stand(part) })));
    },

    /** The last picked part shows its next drawing from this frame on, or the one before; in Rest at rest. */
    showDrawing(step) {
      const part = bench.lead && bench.part(bench.lead);
      if (!part || part.drawings.length < 2) return notice("Pick a part with two drawings or more first.");
      const now = Math.max(bench.poseOf(part.id)?.drawing ?? 0, 0);
      const drawing = (now + step + part.drawings.length) % part.drawings.length;
      return bench.keep([{ edit: "set_values", parts: [part.id], values: { drawing }, frame: bench.at }]);
    },

    async showFrom(is_shown) {
      if (!bench.picked.length) return notice(`No part is picked. Pick the parts that are to ${is_shown ? "appear" : "leave"} first.`);
      await bench.seek(bench.frame);
      return bench.keep([{ edit: "show_from", parts: bench.picked, frame: bench.frame, is_shown }]);
    },

    async holdHere({ pushes = false } = {}) {
      if (!bench.picked.length) return notice("No part is picked. Pick the parts that are to stand still first.");
      await bench.seek(bench.frame);
      return bench.keep([{ edit: "hold_until", parts: bench.picked, frame: bench.frame, pushes }]);
    },

    /** From this frame on the picked parts are painted a step further forward, or back. */
    async orderFrom(step) {
      if (!bench.picked.length) return notice("No part is picked. Pick the parts that are to be painted elsewhere in the order first.");
      await bench.seek(bench.frame);
      return bench.keep(
        bench.picked.map((part) => ({
          edit: "set_values",
          parts: [part],
          values: { order: bench.value(part, "order") + step },
          frame: bench.frame,
        })),
      );
    },
  };
}
