// What is done to parts in time: they stand, appear, hold still, show drawings, lie before others; and what frames are named.

import { notice } from "../../../notices.js";

/** @param {Bench} bench */
export function makePartActs(bench) {
  return {
    /** The frames of a new span: those of the picked keys, or a second from this frame on. */
    spanHere() {
      const frames = bench.pickedKeys.length ? bench.pickedKeys.map((key) => key.frame) : [bench.frame];
      const [first, last] = [Math.min(...frames), Math.max(...frames)];
      return { frame: first, until: last > first ? last : Math.min(first + Math.round(bench.fps) - 1, bench.stage.length - 1) };
    },
    /** Pick the marker that follows the one picked or, without one, this frame, and go to it. */
    nextMarker() {
      const markers = [...bench.stage.markers].sort((one, other) => one.frame - other.frame);
      if (!markers.length) return notice("No frame is named yet. “Name this frame” does that.");
      const at = markers.findIndex(({ id }) => id === bench.pickedMarker);
      const next = at >= 0 ? markers[(at + 1) % markers.length] : (markers.find(({ frame }) => frame >= bench.frame) ?? markers[0]);
      bench.pickMarker(next.id);
      return bench.seek(next.frame);
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

    async holdHere() {
      if (!bench.picked.length) return notice("No part is picked. Pick the parts that are to stand still first.");
      await bench.seek(bench.frame);
      return bench.keep([{ edit: "hold_until", parts: bench.picked, frame: bench.frame }]);
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
