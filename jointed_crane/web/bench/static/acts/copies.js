// Copies of parts; many made one, and one made many.

import { postRead } from "../../reading.js";
import { notice } from "../../notices.js";
import { clip, putClip } from "../commands/clip.js";
import { freshId } from "../state/fresh_id.js";

const PART_CLIP = "parts-copied";

/** @param {Shared} shared */
export function copyActs({ bench, keep, frame, picked, some, copied, withDescendants, view }) {
  /** Keep what the server first has a reader do, which can be watched and stopped. */
  function keepRead(act, fields, words) {
    return bench.keepWith(() => postRead(`${bench.path}/${act}`, { version: bench.version, frame: frame(), ...fields }, words));
  }

  /** A few px beside on the screen, however large the stage is shown. */
  const beside = () => [16, 16].map((px) => Number((px / view.k).toPrecision(2)));

  return {
    copyParts: some(() => {
      const parts = withDescendants(picked()).map((id) => bench.part(id));
      const words = parts.length === 1 ? `${parts[0].name} is copied` : `${parts.length} parts are copied`;
      notice(putClip(PART_CLIP, parts) ? `${words}.` : `${words} for this window; they are too large to be handed to others.`);
    }),
    pasteParts: () => {
      const parts = clip(PART_CLIP) ?? [];
      const id_prefix = freshId();
      return keep("paste", { parts, id_prefix }).then(copied(id_prefix));
    },
    duplicate: (shares = false) =>
      some(() => {
        const id_prefix = freshId();
        return keep("duplicate", { parts: picked(), id_prefix, shares, by: beside(), frame: frame() }).then(copied(id_prefix));
      })(),
    mirror: (axis, /** @type {"parent" | "stage"} */ along = "parent") =>
      some(() => {
        const id_prefix = freshId();
        const mark = bench.spot?.mark ? bench.spotThing.place : null;
        return keep("mirrored_copy", { parts: picked(), id_prefix, axis, along, about: mark, frame: frame() }).then(copied(id_prefix));
      })(),
    fuse: some(async () => {
      const count = picked().length;
      const answer = await keepRead("fuse", { parts: picked() }, `Fusing ${count} parts`);
      if (answer) notice(`${count} parts are one: ${bench.part(bench.lead).name}.`);
    }),
    split: some(async () => {
      const { name } = bench.part(bench.lead);
      const answer = await keepRead("split", { part: bench.lead }, `Splitting ${name}`);
      if (!answer) return;
      const pieces = answer.changed.map((part) => part.id);
      bench.pick(pieces);
      notice(`${name} is ${pieces.length} parts; each stands and moves as it did.`);
    }),
  };
}
