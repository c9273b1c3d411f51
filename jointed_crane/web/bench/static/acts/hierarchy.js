// States of parts on the bench, and how they hang on each other.

import { notice } from "../../notices.js";
import { referringTo } from "../state/goals.js";
import { freshId } from "../state/fresh_id.js";
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
    /** What would lose its goal is named first; the same key again deletes all the same. */
    remove: some(() => {
      const losing = referringTo(bench, picked());
      const asked = picked().join();
      if (losing.length && askedFor !== asked) {
        askedFor = asked;
        return notice(`${losing.join(", ")} would lose a goal and go too. Delete once more to do it all the same; undo brings all back.`);
      }
      askedFor = null;
      return keep("delete_parts", { parts: picked(), frame: frame() });
    }),
    async addHelper(place, over, name = "Helper") {
      const id = freshId();
      if (await keep("add_helper", { id, over, place, name, frame: frame() })) bench.pick([id]);
    },
    helperAbove: some(() => acts.addHelper(null, picked())),
    helperAboveEach: some(() =>
      bench.keep(
        picked().map((id) => ({ edit: "add_helper", id: freshId(), over: [id], name: `Over ${bench.part(id).name}`, frame: frame() })),
      ),
    ),
    helperAtMark: () => {
      const mark = someMark();
      return mark ? acts.addHelper(mark.place, picked(), mark.name) : notice(NO_MARK);
    },
    renamePicked: some(() => {
      const element = root.querySelector(`[data-row="${bench.lead}"]`);
      if (element) acts.rename(element);
    }),
    rename(element) {
      const label = element.querySelector("[data-tree=name]");
      const id = element.dataset.row;
      const field = document.createElement("input");
      field.className = "text-field h-6 min-w-0 px-1";
      field.value = bench.parts.get(id).name;
      field.setAttribute("aria-label", "New name");
      label.replaceChildren(field);
      element.draggable = false;
      field.select();
      let isDone = false;
      const done = (keeps) => {
        if (isDone) return;
        isDone = true;
        const name = field.value.trim();
        const old = bench.parts.get(id).name;
        label.textContent = old;
        element.draggable = true;
        element.focus();
        if (keeps && name && name !== old) keep("rename_part", { part: id, name });
      };
      field.addEventListener("keydown", (event) => {
        event.stopPropagation();
        if (event.key === "Enter") done(true);
        if (event.key === "Escape") done(false);
      });
      field.addEventListener("dblclick", (event) => event.stopPropagation());
      field.addEventListener("blur", () => done(true));
    },
  };
}
