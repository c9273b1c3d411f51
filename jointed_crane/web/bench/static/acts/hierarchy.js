// States of parts on the bench, and how they hang on each other.

import { notice } from "../../notices.js";
import { stoppedWith } from "../state/goals.js";
import { freshId } from "../state/fresh_id.js";
import { makeNaming } from "../tree/naming.js";
import { NO_MARK } from "./picked.js";

/** @param {Shared} shared */
export function hierarchyActs({ bench, keep, frame, picked, some, someMark, withDescendants, root }, acts) {
  let askedFor = null; // the parts that somebody was asked about before they are deleted
  return {
    setState: (parts, state) => keep("set_bench_state", { parts, ...state }),
    hide: some(() => acts.setState(picked(), { hidden: !bench.part(bench.lead).hidden })),
    lock: some(() => acts.setState(picked(), { locked: !bench.part(bench.lead).locked })),
    isolate: some(() => keep("isolate", { parts: withDescendants(picked()) })),
    restore: () => (bench.stage.isolated.length ? keep("isolate") : notice("All parts are shown already.")),
    tag: (tag) => some(() => keep("set_tag", { parts: picked(), tag }))(),

    join: (parts, parent, /** @type {"kept" | "snapped"} */ place = "kept") => keep("join", { parts, parent, place, frame: frame() }),
    /** Of several picked parts the last one becomes the parent of the others. */
    joinToLast: (/** @type {"kept" | "snapped"} */ place = "kept") =>
      some(() => {
        if (picked().length < 2) return notice("Pick the children first and the parent last, then join them.");
        return acts.join(picked().slice(0, -1), bench.lead, place);
      })(),
    detach: some(() => acts.join(picked(), null)),
    reorder: (to) => some(() => keep("reorder", { parts: picked(), to }))(),
    /** What stops with what is picked is said first; the same key again deletes all the same. */
    remove: some(() => {
      const losing = stoppedWith(bench, picked());
      const asked = picked().join();
      if (losing.length && askedFor !== asked) {
        askedFor = asked;
        return notice(`Then ${losing.join(", ")}. Delete once more to do it; undo brings all back.`);
      }
      askedFor = null;
      return keep("delete_parts", { parts: picked(), frame: frame() });
    }),
    async addHelper(place, over, name = "Helper", through = {}) {
      const id = freshId();
      if (await keep("add_helper", { id, over, place, name, frame: frame(), ...through })) bench.pick([id]);
    },
    helperAbove: some(() => acts.addHelper(null, picked())),
    helperAboveEach: some(() =>
      bench.keep(
        picked().map((id) => ({ edit: "add_helper", id: freshId(), over: [id], name: `${bench.part(id).name} helper`, frame: frame() })),
      ),
    ),
    helperAtMark: () => {
      const mark = someMark();
      return mark ? acts.addHelper(mark.place, picked(), mark.name) : notice(NO_MARK);
    },
    /** All that came in with the file of what is picked. */
    pickFile: some(() => {
      const fileOf = (id) => bench.part(id).drawings[0]?.source?.file;
      const files = new Set(picked().map(fileOf).filter(Boolean));
      if (!files.size) return notice(`${bench.part(bench.lead).name} did not come in with a file.`);
      return bench.pick(bench.order.filter((id) => files.has(fileOf(id))));
    }),
    /** Pick the part whose row follows in the tree, or comes before. */
    stepPart(step) {
      const ids = [...root.querySelectorAll("[data-tree=list] > [data-row]")].map(({ dataset }) => dataset.row);
      const at = ids.indexOf(bench.lead);
      const next = ids[at < 0 ? (step > 0 ? 0 : ids.length - 1) : at + step];
      if (next) bench.pick([next]);
    },
    renamePicked: some(() => {
      const element = root.querySelector(`[data-row="${bench.lead}"]`);
      if (element) acts.rename(element);
    }),
    rename: makeNaming(root, bench, keep).rename,
  };
}
