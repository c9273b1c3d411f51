// What is done to picked keys: copied, pasted at the frame, stretched, reversed; and a pose that is held until the frame.

import { notice } from "../../notices.js";
import { clip, putClip } from "../clip.js";

const KEY_CLIP = "keys-copied";

export function makeKeyActs(bench) {
  const some = (act) => () => (bench.pickedKeys.length ? act(bench.pickedKeys) : notice("No key is picked. Click a key in the time panel first."));
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
      const channels = new Set(bench.picked.flatMap((id) => Object.keys(bench.part(id).channels)));
      if (!channels.size) channels.add("turn.z");
      if (!bench.picked.length) return;
      await bench.seek(bench.frame);
      bench.keep([{ edit: "set_keys", parts: bench.picked, channels: [...channels], frame: bench.frame }]);
    },
    /** The frames of a new span: those of the picked keys, or a second from this frame on. */
    spanHere() {
      const [first, last] = bench.pickedKeys.length ? span(bench.pickedKeys) : [bench.frame, bench.frame];
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
    deleteKeys() {
      if (bench.pickedMarker) return bench.keep([{ edit: "delete_marker", marker: bench.pickedMarker }]);
      if (bench.pickedStand) return bench.keep([{ edit: "remove_foothold", ...bench.pickedStand }]);
      if (bench.pickedKeys.length) bench.keep([{ edit: "delete_keys", keys: bench.pickedKeys }]);
    },
    makeSegments(segment) {
      if (bench.pickedKeys.length) bench.keep([{ edit: "set_segment_kind", keys: bench.pickedKeys, segment }]);
    },

    /** The keys on this frame, of the picked parts or, where none is picked, of all. */
    pickHere() {
      const parts = bench.picked.length ? bench.picked : bench.order;
      const found = parts.flatMap((part) =>
        Object.keys(bench.part(part).channels).flatMap((channel) => (bench.keyAt(part, channel, bench.frame) ? [{ part, channel, frame: bench.keyAt(part, channel, bench.frame).frame }] : [])),
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
      return keepPicked({ edit: "reverse_keys", keys }, keys.map((key) => ({ ...key, frame: first + last - key.frame })));
    }),

    /** The far end of the picked keys comes to the frame that is now; the other end stays. */
    stretchKeys: some((keys) => {
      const [first, last] = span(keys);
      if (first === last) return notice("All picked keys stand on one frame. Pick keys on two frames or more to stretch them.");
      const about = bench.frame > first ? first : last;
      const factor = (bench.frame - about) / ((about === first ? last : first) - about);
      if (!factor) return notice(`Nothing is left between frame ${about} and this one. Go to another frame, then stretch the keys to it.`);
      const edit = { edit: "stretch_keys", keys, about, factor, is_whole: bench.isWholeFrames };
      return keepPicked(edit, keys.map((key) => ({ ...key, frame: about + (key.frame - about) * factor })));
    }),

    /** From this frame on each picked part stands on a point of its box, or on its pivot. */
    async standOn(fraction) {
      if (!bench.picked.length) return notice("No part is picked. Pick the part that is to stand first.");
      await bench.seek(bench.frame);
      const point = (id) => (fraction ? { point: fraction, unit: "fraction" } : { point: bench.part(id).pivot.slice(0, 2), unit: "art" });
      return bench.keep(bench.picked.map((part) => ({ edit: "set_foothold", part, frame: bench.frame, ...point(part) })));
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
  };
}
