// Joints: eyelets, seats, pivots, marks, axes and registrations.

import { notice } from "../../notices.js";
import { colourAt } from "../elements/art_colour.js";
import { freshId } from "../state/fresh_id.js";
import { NO_MARK } from "./picked.js";

/** @param {Shared} shared */
export function jointActs({ bench, keep, frame, picked, some, someMark }, acts) {
  return {
    makeJoints: some(() => keep("make_joints", { parts: picked(), id_prefix: freshId(), frame: frame() })),
    seat: some(() => keep("seat", { parts: picked(), frame: frame() })),
    seatAll: (pattern = "{name}") => keep("seat", { pattern, frame: frame() }),
    unseat: some(() => keep("unseat", { parts: picked() })),
    pivotsTo: (fraction) => some(() => keep("place_pivots", { parts: picked(), fraction, keep: bench.keeps, frame: frame() }))(),
    /** Pivots into the round ends that lie nearest; what is seated comes home to its eyelet. */
    intoRoundEnd: some(() => {
      const parts = picked();
      const seated = parts.filter((id) => bench.part(id).seat);
      const into = { edit: /** @type {const} */ ("pivot_into_round_end"), parts, frame: frame() };
      return bench.keep(seated.length ? [into, { edit: "seat", parts: seated, frame: frame() }] : [into]);
    }),
    /** A round patch in the limb's colour about the joint that it has with its parent. */
    addRoundPatch: some(async () => {
      const part = bench.lead;
      const drawing = bench.drawingOf(part);
      if (!drawing) return notice("A round patch takes the colour of a limb. Pick a part with a picture.");
      const fill = await colourAt(drawing, bench.part(part).pivot);
      await keep("add_round_patch", { part, id: freshId(), fill });
    }),
    async addMark(place, through = {}) {
      const id = freshId();
      if (await keep("add_mark", { id, place, ...through })) bench.pickSpot({ mark: id });
    },
    /** A mark at the picked part's pivot, else in the middle of the stage. */
    markHere: () => acts.addMark(bench.lead ? bench.poseOf(bench.lead).pivot : [bench.stage.width / 2, bench.stage.height / 2]),
    nextMark() {
      const { marks } = bench.stage;
      if (!marks.length) return notice(NO_MARK);
      const at = marks.findIndex((mark) => mark.id === bench.spot?.mark);
      return bench.pickSpot({ mark: marks[(at + 1) % marks.length].id });
    },
    async removeSpot() {
      const { mark, part, eyelet } = bench.spot;
      await (mark ? keep("delete_mark", { mark }) : keep("delete_eyelet", { part, eyelet }));
    },
    alignAxes: (to) =>
      some(() => keep("align_axes", { part: bench.lead, to, start: bench.part(bench.lead).pivot.slice(0, 2), frame: frame() }))(),
    registerAt: (what) =>
      some(() => {
        const mark = someMark();
        const points = {
          pivot: [bench.part(bench.lead).pivot.slice(0, 2), "art"],
          centre: [[0.5, 0.5], "fraction"],
          mark: mark && [mark.place, "stage"],
        };
        if (!points[what]) return notice(NO_MARK);
        const [point, unit] = points[what];
        return keep("move_registration", { part: bench.lead, point, unit, keep: bench.keepsZero, frame: frame() });
      })(),
  };
}
