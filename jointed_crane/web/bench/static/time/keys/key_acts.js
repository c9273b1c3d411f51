// What is done to picked keys: copied, pasted at the frame, stretched, reversed; and a pose that is held until the frame.

import { notice } from "../../../notices.js";
import { clip, putClip } from "../../commands/clip.js";

const KEY_CLIP = "keys-copied";

/**
 * The edit that takes a foothold, or a change of hands, away.
 * @param {Stand} stand
 * @returns {Edit}
 */
const without = ({ part, frame, constraint }) =>
  constraint ? { edit: "drop_change", part, frame, constraint } : { edit: "remove_foothold", part, frame };

/** @param {Bench} bench */
export function makeKeyActs(bench) {
  const some = (act) => () =>
    bench.pickedKeys.length ? act(bench.pickedKeys) : notice("No key is picked. Click a key in the time panel first.");
  const words = (count) => (count === 1 ? "1 key is" : `${count} keys are`);

  /** Keep an edit of keys, then pick the keys that stand where they came to stand. */
  async function keepPicked(edit, whereTo) {
    bench.pickedKeys = [];
    if (!(await bench.keep([edit]))) return;
    const found = whereTo.flatMap(({ part, channel, frame }) => {
      const keys = bench.part(part)?.channels[channel]?.keys ?? [];
      const near = keys.filter((key) => Math.abs(key.frame - frame) < 0.51);
      near.sort((one, other) => Math.abs(one.frame - frame) - Math.abs(other.frame - frame));
      return near.slice(0, 1).map((key) => ({ part, channel, frame: key.frame }));
    });
    bench.pickKeys(found);
  }

  function span(keys) {
    const frames = keys.map((key) => key.frame);
    return [Math.min(...frames), Math.max(...frames)];
  }

  return {
    keepPicked,
    async setKeys() {
      // The channels of the keys that are picked, else all that move.
      const channels = new Set(bench.pickedKeys.map(({ channel }) => channel));
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
      const found = parts.flatMap((part) =>
        Object.keys(bench.part(part).channels).flatMap((channel) =>
          bench.keyAt(part, channel, bench.frame) ? [{ part, channel, frame: bench.keyAt(part, channel, bench.frame).frame }] : [],
        ),
      );
      if (!found.length) return notice(`No key stands on frame ${bench.frame}.`);
      bench.pickKeys(found);
    },

    copyKeys: some((keys) => {
      const copied = new Map();
      for (const { part, channel, frame } of keys) {
        const name = `${part} ${channel}`;
        if (!copied.has(name)) copied.set(name, { part: bench.part(part).name, channel, keys: [] });
        copied.get(name).keys.push(bench.keyAt(part, channel, frame));
      }
      putClip(KEY_CLIP, [...copied.values()]);
      notice(`${words(keys.length)} copied.`);
    }),

    toggleWholeFrames() {
      bench.setWholeFrames(!bench.isWholeFrames);
      notice(bench.isWholeFrames ? "Keys come to whole frames." : "Keys may stand between frames.");
    },

    /** Paste at this frame; `is_hold` in steps, `mirrored` as the reflection on the other side. */
    async pasteKeys({ is_hold = false, mirrored = false } = {}) {
      const copied = clip(KEY_CLIP) ?? [];
      if (!copied.length) return notice("No keys were copied yet. Pick keys in the time panel and copy them first.");
      const names = new Set(copied.map(({ part }) => part));
      const fitsAny = names.size === 1 && bench.picked.length > 0;
      if (mirrored && !fitsAny) {
        await bench.seek(bench.frame);
        return bench.keep([{ edit: "paste_keys", copied, at: bench.frame, is_hold, mirrored }]);
      }
      const takers = fitsAny ? bench.picked : bench.order.filter((id) => names.has(bench.part(id).name));
      await bench.seek(bench.frame);
      const at = bench.frame;
      const [first] = span(copied.flatMap(({ keys }) => keys));
      const pasted = takers.flatMap((part) =>
        copied
          .filter(({ part: name }) => fitsAny || name === bench.part(part).name)
          .flatMap(({ channel, keys }) => keys.map((key) => ({ part, channel, frame: at + key.frame - first }))),
      );
      await keepPicked({ edit: "paste_keys", copied, at, parts: fitsAny ? bench.picked : [], is_hold, mirrored }, pasted);
    },

    reverseKeys: some((keys) => {
      const [first, last] = span(keys);
      return keepPicked(
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
      const edit = { edit: "stretch_keys", keys, about, factor, is_whole: bench.isWholeFrames };
      return keepPicked(
        edit,
        keys.map((key) => ({ ...key, frame: about + (key.frame - about) * factor })),
      );
    }),
  };
}
