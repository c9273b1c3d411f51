// What can be done to picked parts, each as an edit; the table of commands gives them their words and keys.

import { postFiles, postRead } from "/static/reading.js";
import { notice } from "/static/notices.js";
import { clip, putClip } from "./clip.js";
import { freshId } from "./state.js";

const POSE_CHANNELS = ["turn.z", "scale.x", "scale.y", "slide.x", "slide.y", "spin.z", "shear.xy", "opacity", "move.x", "move.y"];
const PART_CLIP = "parts-copied";
const POSE_CLIP = "pose-copied";
const NO_MARK = "There is no mark on the stage. Place one with the Mark tool first.";

export function makeActs(root, bench, view) {
  const frame = () => bench.at;
  const picked = () => bench.picked;
  const keep = (edit, fields = {}) => bench.keep([{ edit, ...fields }]);

  /** Runs an act only where parts are picked; says so where none is. */
  const some =
    (act) =>
    (...given) => {
      if (bench.picked.length) return act(...given);
      notice("No part is picked. Pick one on the stage or in the joint tree first.");
    };
  const copied = (prefix) => (answer) => answer && bench.pick(answer.changed.map((part) => part.id).filter((id) => id.startsWith(prefix)));

  const acts = {
    // States of the bench
    setState: (parts, state) => keep("set_bench_state", { parts, ...state }),
    hide: some(() => acts.setState(picked(), { hidden: !bench.part(bench.lead).hidden })),
    lock: some(() => acts.setState(picked(), { locked: !bench.part(bench.lead).locked })),
    isolate: some(() => keep("isolate", { parts: withDescendants(picked()) })),
    restore: () => (bench.stage.isolated.length ? keep("isolate") : notice("All parts are shown already.")),
    tag: (tag) => some(() => keep("set_tag", { parts: picked(), tag }))(),

    // The hierarchy
    join: (parts, parent, place = "kept") => keep("join", { parts, parent, place, frame: frame() }),
    /** Of several picked parts the last one becomes the parent of the others. */
    joinToLast: (place = "kept") =>
      some(() => {
        if (picked().length < 2) return notice("Pick the children first and the parent last, then join them.");
        return acts.join(picked().slice(0, -1), bench.lead, place);
      })(),
    detach: some(() => acts.join(picked(), null)),
    reorder: (to) => some(() => keep("reorder", { parts: picked(), to }))(),
    remove: some(() => keep("delete_parts", { parts: picked(), frame: frame() })),
    async addHelper(place, over, name = "Helper") {
      const id = freshId();
      if (await keep("add_helper", { id, over, place, name, frame: frame() })) bench.pick([id]);
    },
    helperAbove: some(() => acts.addHelper(null, picked())),
    helperAboveEach: some(() =>
      bench.keep(picked().map((id) => ({ edit: "add_helper", id: freshId(), over: [id], name: `Over ${bench.part(id).name}`, frame: frame() }))),
    ),
    helperAtMark: () => {
      const mark = someMark();
      return mark ? acts.addHelper(mark.place, picked(), mark.name) : notice(NO_MARK);
    },
    renamePicked: some(() => {
      const element = root.querySelector(`[data-row="${bench.lead}"]`);
      if (element) acts.rename(element);
    }),

    // Joints
    makeJoints: some(() => keep("make_joints", { parts: picked(), id_prefix: freshId(), frame: frame() })),
    seat: some(() => keep("seat", { parts: picked(), frame: frame() })),
    seatAll: (pattern = "{name}") => keep("seat", { pattern, frame: frame() }),
    unseat: some(() => keep("unseat", { parts: picked() })),
    pivotsTo: (fraction) => some(() => keep("place_pivots", { parts: picked(), fraction, keep: bench.keeps, frame: frame() }))(),
    async addMark(place) {
      const id = freshId();
      if (await keep("add_mark", { id, place })) bench.pickSpot({ mark: id });
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
    alignAxes: (to) => some(() => keep("align_axes", { part: bench.lead, to, start: bench.part(bench.lead).pivot.slice(0, 2), frame: frame() }))(),
    registerAt: (what) =>
      some(() => {
        const mark = someMark();
        const points = { pivot: [bench.part(bench.lead).pivot.slice(0, 2), "art"], centre: [[0.5, 0.5], "fraction"], mark: mark && [mark.place, "stage"] };
        if (!points[what]) return notice(NO_MARK);
        const [point, unit] = points[what];
        return keep("move_registration", { part: bench.lead, point, unit, keep: bench.keepsZero, frame: frame() });
      })(),

    // Copies
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
        return keep("duplicate", { parts: picked(), id_prefix, shares, by: [24, 24], frame: frame() }).then(copied(id_prefix));
      })(),
    mirror: (axis, along = "parent") =>
      some(() => {
        const id_prefix = freshId();
        const mark = bench.spot?.mark ? bench.spotThing.place : null;
        return keep("mirrored_copy", { parts: picked(), id_prefix, axis, along, about: mark, frame: frame() }).then(copied(id_prefix));
      })(),

    // One from many, many from one
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

    // Rest and poses
    settle: some(() => settle(picked())),
    settleAll: () => settle([]),
    reset: some(() => keep("reset", { parts: picked(), frame: frame() })),
    resetAll: () => keep("reset", { frame: frame() }),
    copyPose: some(() => {
      const pose = {};
      for (const id of picked()) pose[bench.part(id).name] = Object.fromEntries(POSE_CHANNELS.map((name) => [name, bench.value(id, name)]));
      putClip(POSE_CLIP, pose);
      notice(`The pose of ${Object.keys(pose).length === 1 ? Object.keys(pose)[0] : `${Object.keys(pose).length} parts`} is copied.`);
    }),
    pastePose: (mirrored = false) => {
      const pose = clip(POSE_CLIP) ?? {};
      if (!Object.keys(pose).length) return notice("No pose was copied yet. Pick parts and copy their pose first.");
      const fits = Object.keys(pose).length === 1 && !mirrored;
      return keep("paste_pose", { pose, mirrored, parts: fits ? picked() : [], frame: frame() });
    },

    // Artwork
    async bringIn(files, choices = null) {
      if (!files.length) return null;
      notice(files.length === 1 ? `Reading ${files[0].name}` : `Reading ${files.length} files`);
      const fields = { version: bench.version, frame: bench.at ?? "rest" };
      if (choices) fields.choices = JSON.stringify(choices);
      const answer = await bench.keepWith(() => postFiles(`${bench.path}/artwork`, files, fields));
      if (!answer) return null;
      bench.pick(answer.added.slice(-1));
      const count = answer.added.length;
      notice([`${count} ${count === 1 ? "part" : "parts"} came in, each where it was drawn.`, ...answer.notes].join(" "));
      return answer;
    },
    addShape: async (shape, name, place = [0, 0]) => {
      const id = freshId();
      const answer = await keep("add_shape", { id, shape, name, place });
      if (answer) bench.pick([id]);
      return answer;
    },
    /** A shape of this form in the middle of the stage, a quarter of it wide. */
    addForm(form) {
      const { width, height } = bench.stage;
      const [x, y, size] = [width / 2, height / 2, Math.min(width, height) / 4];
      const shapes = {
        rectangle: { form, box: [x - size, y - size / 2, x + size, y + size / 2] },
        ellipse: { form, centre: [x, y], radii: [size / 2, size / 2] },
        polygon: { form, centre: [x, y], radius: size / 2 },
      };
      return acts.addShape(shapes[form], form[0].toUpperCase() + form.slice(1));
    },
    addText() {
      const { width, height } = bench.stage;
      const shape = { form: "text", words: "Heron Lock", font: "Bricolage Grotesque Bold", size: Math.round(height / 8), alignment: "middle", paint: { fill: "#20303c" } };
      return acts.addShape(shape, "Text", [width / 2, height / 2]);
    },
    chequer: () => bench.setChequered(!bench.isChequered),
    fit: () => view.fit(bench.stage),

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

  /** Keep what the server first has a reader do, which can be watched and stopped. */
  function keepRead(act, fields, words) {
    return bench.keepWith(() => postRead(`${bench.path}/${act}`, { version: bench.version, frame: frame(), ...fields }, words));
  }

  /** The mark that is picked, else the one placed last. */
  function someMark() {
    return bench.spot?.mark ? bench.spotThing : bench.stage.marks.at(-1);
  }

  function settle(parts) {
    if (!bench.isMotion) return notice("Everything lies at rest already. Go to a frame in Motion, then make its pose the rest.");
    return keep("settle", { parts, frame: bench.frame });
  }

  function withDescendants(ids) {
    const found = new Set(ids);
    for (const id of found) for (const child of bench.children(id)) found.add(child);
    return bench.order.filter((id) => found.has(id));
  }

  return acts;
}
