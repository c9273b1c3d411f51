// Copying keys and pasting them at the frame, onto the same parts or others.

import { notice } from "../../../notices.js";
import { clip, putClip } from "../../commands/clip.js";
import { isStep } from "../../state/facts.js";
import { keepPicked, makeSome, span } from "./picked_keys.js";

const KEY_CLIP = "keys-copied";

/** @param {Bench} bench */
export function makeKeyClip(bench) {
  const some = makeSome(bench);

  return {
    copyKeys: some((keys) => {
      const copied = new Map();
      // What takes hold of a part with these keys is repeated with them when they are pasted.
      for (const { part, channel, frame } of keys.filter((key) => !isStep(key.channel))) {
        const name = `${part} ${channel}`;
        if (!copied.has(name)) copied.set(name, { part: bench.part(part).name, channel, keys: [] });
        copied.get(name).keys.push(bench.keyAt(part, channel, frame));
      }
      putClip(KEY_CLIP, [...copied.values()]);
      notice(`${keys.length === 1 ? "1 key is" : `${keys.length} keys are`} copied.`);
    }),

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
      await keepPicked(bench, { edit: "paste_keys", copied, at, parts: fitsAny ? bench.picked : [], is_hold, mirrored }, pasted);
    },
  };
}
