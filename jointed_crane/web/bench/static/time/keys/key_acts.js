// What is done to picked keys: set, deleted, stretched, reversed, and how they go on.

import { notice } from "../../../notices.js";
import { isStep, stepsOf } from "../../state/facts.js";
import { makeKeyClip } from "./key_clip.js";
import { keepPicked, makeSome, span } from "./picked_keys.js";

/**
 * The edit that takes a foothold, or a change of hands, away.
 * @param {Stand} stand
 * @returns {Edit}
 */
const without = ({ part, frame, constraint }) =>
  constraint ? { edit: "drop_change", part, frame, constraint } : { edit: "remove_foothold", part, frame };

/** @param {Bench} bench */
export function makeKeyActs(bench) {
  const some = makeSome(bench);

  return {
    keepPicked: (edit, whereTo) => keepPicked(bench, edit, whereTo),
    ...makeKeyClip(bench),
    async setKeys() {
      // The channels of the keys that are picked, else all that move.
      const channels = new Set(bench.pickedKeys.map(({ channel }) => channel).filter((channel) => !isStep(channel)));
      if (!channels.size) for (const id of bench.picked) for (const name of Object.keys(bench.part(id).channels)) channels.add(name);
      if (!channels.size) channels.add("turn.z");
      if (!bench.picked.length) return;
      await bench.seek(bench.frame);
      bench.keep([{ edit: "set_keys", parts: bench.picked, channels: [...channels], frame: bench.frame }]);
    },
    deleteKeys() {
      if (bench.pickedMarker) return bench.keep([{ edit: "delete_marker", marker: bench.pickedMarker }]);
      if (bench.pickedStand) return bench.keep([without(bench.pickedStand)]);
      if (bench.pickedKeys.length) bench.keep([{ edit: "delete_keys", keys: bench.pickedKeys }]);
    },
    makeSegments(segment) {
      if (bench.pickedKeys.length) bench.keep([{ edit: "set_segment_kind", keys: bench.pickedKeys, segment }]);
    },

    /** The keys on this frame, of the picked parts or, where none is picked, of all. */
    pickHere() {
      const parts = bench.picked.length ? bench.picked : bench.order;
      const result = parts.flatMap((part) => {
        const steps = stepsOf(bench.part(part)).map(({ channel }) => channel);
        const channels = new Set([...Object.keys(bench.part(part).channels), ...steps]);
        return [...channels].flatMap((channel) => {
          const key = bench.keyAt(part, channel, bench.frame);
          return key ? [{ part, channel, frame: key.frame }] : [];
        });
      });
      if (!result.length) return notice(`No key stands on frame ${bench.frame}.`);
      bench.pickKeys(result);
    },

    toggleWholeFrames() {
      bench.setWholeFrames(!bench.isWholeFrames);
      notice(bench.isWholeFrames ? "Keys come to whole frames." : "Keys may stand between frames.");
    },

    reverseKeys: some((keys) => {
      const [first, last] = span(keys);
      return keepPicked(
        bench,
        { edit: "reverse_keys", keys },
        keys.map((key) => ({ ...key, frame: first + last - key.frame })),
      );
    }),

    /** The far end of the picked keys comes to the frame that is now; the other end stays. */
    stretchKeys: some((keys) => {
      const [first, last] = span(keys);
      if (first === last) return notice("All picked keys stand on one frame. Pick keys on two frames or more to stretch them.");
      const about = bench.frame > first ? first : last;
      const factor = (bench.frame - about) / ((about === first ? last : first) - about);
      if (!factor) return notice(`Nothing is left between frame ${about} and this one. Go to another frame, then stretch the keys to it.`);
      /** @type {Edit} */
      const edit = { edit: "stretch_keys", keys, about, factor, is_whole: bench.isWholeFrames };
      return keepPicked(
        bench,
        edit,
        keys.map((key) => ({ ...key, frame: about + (key.frame - about) * factor })),
      );
    }),
  };
}
