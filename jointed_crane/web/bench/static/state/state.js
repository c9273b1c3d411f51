// What the bench shows: the scene as the server last gave it, the state, the frame, what is picked, and a preview over it.

import { get, post } from "../../api.js";
import { notice, saying } from "../../notices.js";
import { changesOf, channelKind, facts } from "./facts.js";
import { Pending } from "./pending.js";
import { Previewer } from "./previewing.js";

const DEFAULT_SNAPS = ["nine points", "pivots", "eyelets", "marks"];

function remembered(name, initial) {
  try {
    return JSON.parse(localStorage.getItem(name)) ?? initial;
  } catch {
    return initial;
  }
}

export const ABOUT = ["own pivots", "shared centre", "last picked", "parent's pivot"];

/** A part as a preview shows it: fields and channels that differ come over the known ones, null is a channel gone. */
function laidOver(known, brief) {
  const part = { ...known, ...brief };
  if (!known || !brief.channels) return part;
  const channels = { ...known.channels };
  for (const [name, channel] of Object.entries(brief.channels)) {
    if (channel) channels[name] = channel.beside ? withKeysBeside(channels[name], channel) : channel;
    else delete channels[name];
  }
  return { ...part, channels };
}

/** A known channel with the keys that differ, and without those on the frames that are gone. */
function withKeysBeside(known, { beside, gone }) {
  const left = new Set([...gone, ...beside.map((key) => key.frame)]);
  const keys = [...known.keys.filter((key) => !left.has(key.frame)), ...beside];
  return { ...known, keys: keys.sort((one, other) => one.frame - other.frame) };
}

/**
 * Events: "scene" (parts or stage changed), "pose" (something lies elsewhere), "picked", "hovered", "state" (Rest, Motion,
 * tool or frame), "history", "pending" (changes without keys), "busy" (edits wait for their answers), "playing" (a film begins).
 */
export class Bench extends EventTarget {
  constructor(id) {
    super();
    this.setsKeys = remembered("sets-keys", true);
    this.isWholeFrames = remembered("whole-frames", true);
    this.id = id;
    this.path = `/api/scenes/${id}`;
    this.parts = new Map();
    this.order = [];
    this.pose = { parts: {}, painting: [], motion: {} };
    this.over = null;
    this.isMotion = false;
    this.frame = 0;
    this.picked = [];
    this.pickedKeys = [];
    this.pickedStand = null; // the foothold picked in the time panel, or what changes hands: {part, frame, constraint}
    this.pickedMarker = null; // the id of the marker or span picked there
    this.tool = "move";
    this.keeps = "art";
    this.isSnapping = true;
    this.snapKinds = remembered("snap-kinds", DEFAULT_SNAPS);
    this.isChequered = remembered("chequered", false);
    this.about = "own pivots";
    this.spot = null; // the eyelet or mark picked: {part, eyelet} or {mark}
    this.teaching = null; // the lever that is taught by posing: {lever, channel}
    this.curves = []; // channels whose curves previews are to bring: [part, channel]
    this.hovered = null; // the part under the pointer, on the stage or in the tree
    this.work = Promise.resolve();
    this.waiting = 0;
    this.pending = new Pending(this, facts.valueEdits);
    this.previewer = new Previewer(this);
  }

  tell(...names) {
    for (const name of names) this.dispatchEvent(new Event(name));
  }
  on(names, act) {
    for (const name of names.split(" ")) this.addEventListener(name, act);
  }

  // Loading and answers

  /** The frame edits are made at: null in Rest. */
  get at() {
    return this.isMotion ? this.frame : null;
  }

  async load() {
    const answer = await get(`${this.path}?frame=${this.at ?? "rest"}`);
    this.parts = new Map(answer.scene.parts.map((part) => [part.id, part]));
    this.order = answer.scene.parts.map((part) => part.id);
    this.below = null;
    const { name, width, height, ground, fps, length, marks, isolated, markers } = answer.scene;
    const poses = answer.scene.poses.map((pose) => ({ id: pose.id, name: pose.name, parts: Object.keys(pose.values) }));
    this.stage = { name, width, height, ground, fps, length, marks, isolated, markers, poses };
    this.over = null;
    this.#history(answer);
    this.pose = answer.pose;
    this.#prune();
    this.tell("scene", "pose", "picked", "history");
  }

  #history(answer) {
    this.version = answer.version;
    this.undoLabel = answer.undo;
    this.redoLabel = answer.redo;
  }

  #take(answer) {
    for (const id of answer.removed) this.parts.delete(id);
    for (const part of answer.changed) this.parts.set(part.id, { ...this.parts.get(part.id), ...part });
    if (answer.order) this.order = answer.order;
    this.below = null;
    if (answer.stage) this.stage = answer.stage;
    if ("undo" in answer) this.#history(answer);
    this.frame = Math.min(this.frame, this.stage.length - 1);
    this.pose = answer.pose;
    this.over = null;
    this.#prune();
    this.tell("scene", "pose", "picked", "history");
  }

  #prune() {
    this.picked = this.picked.filter((id) => this.parts.has(id));
    this.pickedKeys = this.pickedKeys.filter((key) => this.keyAt(key.part, key.channel, key.frame));
    if (this.spot && !this.spotThing) this.spot = null;
    if (this.pickedMarker && !this.markerPicked) this.pickedMarker = null;
    if (this.teaching && !this.parts.has(this.teaching.lever)) this.teaching = null;
    if (this.pickedStand && !this.#isThere(this.pickedStand)) this.pickedStand = null;
    if (!ABOUT.includes(this.about) && !this.stage.marks.some((mark) => mark.id === this.about)) this.about = "own pivots";
  }

  /** Whether a foothold, or with a constraint the frame from which that changes hands, is still there. */
  #isThere({ part, frame, constraint }) {
    const { footholds = [], constraints = [] } = this.parts.get(part) ?? {};
    const found = constraint ? constraints.filter(({ id }) => id === constraint).flatMap(changesOf) : footholds;
    return found.some((one) => one.frame === frame);
  }

  // Edits, one after the other

  /** Keep edits; resolves to the answer, or null where they were refused (the user has been told). */
  async keep(edits) {
    return this.pending.takes(edits) ? this.pending.add(edits) : this.keepNow(edits);
  }
  keepNow(edits) {
    return this.#queued(() => post(`${this.path}/edits`, { version: this.version, frame: this.at, edits }));
  }
  undo() {
    if (this.pending.takeBack()) return Promise.resolve(null);
    return this.#queued(() => post(`${this.path}/undo`, { version: this.version, frame: this.at }));
  }
  redo() {
    return this.#queued(() => post(`${this.path}/redo`, { version: this.version, frame: this.at }));
  }
  /** Anything else that answers like an edit. */
  keepWith(send) {
    return this.#queued(send);
  }

  #queued(send) {
    const step = this.work.then(async () => {
      try {
        const answer = await send();
        this.#take(answer);
        return answer;
      } catch (error) {
        this.over = null;
        if (!(await this.refused(error))) this.tell("scene", "pose");
        return null;
      }
    });
    this.waiting += 1;
    this.tell("busy");
    this.work = step
      .catch(() => null)
      .finally(() => {
        this.waiting -= 1;
        this.tell("busy");
      });
    return step;
  }

  /** A refusal of the server is told; where another change came first the scene is read anew, and that is answered. */
  async refused(error) {
    if (error.status === undefined) throw error;
    notice(error.message, { isRefusal: true });
    const isLate = error.status === 409;
    if (isLate) await this.load();
    return isLate;
  }

  /** What edits would show at this frame, and what curves, kept nowhere. */
  preview(edits, curves = []) {
    return post(`${this.path}/preview`, { version: this.version, frame: this.at, edits, ...(curves.length && { curves }) });
  }

  /** Show what a preview answered, over what is kept; null takes it away. */
  show(preview) {
    this.over = preview && {
      parts: new Map(preview.changed.map((part) => [part.id, laidOver(this.parts.get(part.id), part)])),
      pose: preview.pose,
      snap: preview.snap,
      marks: preview.stage?.marks,
      markers: preview.stage?.markers,
      curves: preview.curves,
    };
    this.tell("pose");
  }

  // Reading

  part(id) {
    return this.over?.parts.get(id) ?? this.parts.get(id);
  }
  poseOf(id) {
    return this.over?.pose.parts[id] ?? this.pose.parts[id];
  }
  /** The shape of a part's drawing as it is shown now, with what moves it: {d, fill, stroke, width, shape}, or null. */
  movingShape(id) {
    const from = this.over?.parts.has(id) || this.over?.pose.shapes?.[id] ? this.over.pose.shapes : this.pose.shapes;
    return from?.[id] ?? null;
  }
  /** What is known of a channel by its name. */
  channel(name) {
    return channelKind(name);
  }
  /** A channel of a part as rows call it; numbers of constraints by the name of theirs too. */
  channelOf(id, channel) {
    const constraint = this.part(id)?.constraints.find((one) => channel.startsWith(`constraint.${one.id}.`));
    return constraint ? `${this.channel(channel).label}, ${constraint.name}` : this.channel(channel).label;
  }
  /** A number as the screen shows it: the rest value in Rest, the motion value in Motion. */
  value(id, channel) {
    const part = this.part(id);
    const { neutral, joins } = this.channel(channel);
    if (!this.isMotion) return part.rest[channel] ?? neutral;
    const over = this.over?.pose.motion[id];
    const motion = over && channel in over ? over[channel] : this.pose.motion[id]?.[channel];
    return motion ?? (joins === "replace" ? (part.rest[channel] ?? neutral) : neutral);
  }
  keyAt(id, channel, frame) {
    return this.part(id)?.channels[channel]?.keys.find((key) => Math.abs(key.frame - frame) < 1e-6);
  }
  isKeyed(id, channel) {
    return this.isMotion && Boolean(this.keyAt(id, channel, this.frame));
  }
  /** Ids of the parts that hang on a part (null: on the stage), back to front. */
  children(id) {
    if (!this.below) {
      this.below = new Map();
      for (const other of this.order) {
        const { parent } = this.parts.get(other);
        if (!this.below.has(parent)) this.below.set(parent, []);
        this.below.get(parent).push(other);
      }
    }
    return this.below.get(id) ?? [];
  }
  /** Whether the bench shows a part: not hidden, and among the isolated ones where some are. */
  isSeen(id) {
    const { isolated } = this.stage;
    return !this.part(id).hidden && (!isolated.length || isolated.includes(id));
  }
  get marks() {
    return this.over?.marks ?? this.stage.marks;
  }
  get markers() {
    return this.over?.markers ?? this.stage.markers;
  }
  /** The marker or span that is picked in the time panel, as it is kept; undefined for none. */
  get markerPicked() {
    return this.stage.markers.find(({ id }) => id === this.pickedMarker);
  }
  /** The eyelet or mark that is picked, as it is now. */
  get spotThing() {
    if (this.spot?.mark) return this.marks.find((mark) => mark.id === this.spot.mark);
    return this.spot && this.part(this.spot.part)?.eyelets.find((eyelet) => eyelet.id === this.spot.eyelet);
  }
  /** Frames that a hand has dragged over: whole ones, or any where the switch says so; Alt turns that round. */
  dragged(frames, { altKey }) {
    return this.isWholeFrames !== altKey ? Math.round(frames) : frames;
  }
  /** What a snapping edit is sent: how near, and to what. */
  snapping(isLeft, within) {
    return { snap_within: isLeft || !this.isSnapping ? 0 : within, snap_to: this.snapKinds };
  }
  /** What stays when a registration moves: "art" while art stays, else the zero itself. */
  get keepsZero() {
    return this.keeps === "art" ? "art" : "registration";
  }
  get isTogether() {
    return this.about !== "own pivots" && this.picked.length > 0;
  }
  /** Ids from the parent up to the stage. */
  ancestors(id) {
    const found = [];
    for (let at = this.parts.get(id)?.parent; at; at = this.parts.get(at)?.parent) found.push(at);
    return found;
  }
  drawingOf(id) {
    const part = this.part(id);
    return part?.drawings[Math.max(this.poseOf(id)?.drawing ?? 0, 0)] ?? null;
  }
  /** Where an art point lies on the stage. */
  onStage(id, [x, y]) {
    const [a, b, c, d, e, f] = this.poseOf(id).matrix;
    return [a * x + c * y + e, b * x + d * y + f];
  }
  get fps() {
    return this.stage.fps[0] / this.stage.fps[1];
  }
  get lead() {
    return this.picked.at(-1) ?? null;
  }

  // States

  pick(ids) {
    this.picked = ids.filter((id, index) => ids.indexOf(id) === index);
    // Keys of a part that is left are left with it: Delete and copying act on what one looks at.
    this.pickedKeys = this.pickedKeys.filter(({ part }) => this.picked.includes(part));
    if (!this.picked.includes(this.pickedStand?.part)) this.pickedStand = null;
    this.spot = null;
    this.tell("picked");
  }
  hover(id) {
    if (this.hovered === id) return;
    this.hovered = id;
    this.tell("hovered");
  }
  /** Pick an eyelet ({part, eyelet}) or a mark ({mark}); null picks neither. */
  pickSpot(spot) {
    this.spot = spot;
    this.tell("picked");
  }
  togglePick(id) {
    this.pick(this.picked.includes(id) ? this.picked.filter((other) => other !== id) : [...this.picked, id]);
  }
  pickMarker(id) {
    this.pickedMarker = id;
    this.pickedStand = null;
    this.pickedKeys = [];
    this.tell("picked");
  }
  pickStand(stand) {
    this.pickedStand = stand;
    this.pickedMarker = null;
    this.pickedKeys = [];
    this.tell("picked");
  }
  pickKeys(keys) {
    this.pickedKeys = keys;
    if (keys.length) this.pickedMarker = null;
    this.pickedStand = null;
    this.tell("picked");
  }
  async setMotion(isMotion) {
    if (this.isMotion === isMotion) return;
    this.isMotion = isMotion;
    await this.refreshPose();
    this.tell("state", "scene");
  }
  async seek(frame) {
    this.frame = Math.min(Math.max(Math.round(frame), 0), this.stage.length - 1);
    this.tell("state");
    if (!this.isMotion) {
      this.isMotion = true;
      this.tell("state", "scene");
    }
    await this.refreshPose();
  }
  /** Brings the newest pose: one asking under way, and while the frame moves on, the newest frame next. */
  refreshPose() {
    this.isPoseOld = true;
    this.asking ??= this.#askPoses().finally(() => {
      this.asking = null;
    });
    return this.asking;
  }
  async #askPoses() {
    while (this.isPoseOld) {
      this.isPoseOld = false;
      const answer = await saying(() => get(`${this.path}/pose?frame=${this.at ?? "rest"}`));
      if (!answer) return;
      if (answer.version !== this.version) {
        // An edit of ours may be on its way; only a version from elsewhere asks for everything anew.
        await this.work;
        if (answer.version > this.version) return void (await this.load());
        this.isPoseOld = true;
        continue;
      }
      this.pose = answer.pose;
      this.tell("pose");
    }
  }
  /** Begin to teach a lever ({lever, channel}): changes wait until they are kept as what it does; null ends it. */
  teach(lever) {
    if (this.pending.edits.length) return void notice("Changes wait. Keep them or drop them first.", { isRefusal: true });
    this.teaching = lever;
    if (lever) notice(`Set ${this.part(lever.lever).name}, pose the parts, then keep that.`);
    this.tell("pending", "picked");
  }
  setTool(tool) {
    this.tool = tool;
    this.tell("state");
  }
  setAbout(about) {
    this.about = about;
    this.tell("state");
  }
  setChequered(isChequered) {
    this.isChequered = isChequered;
    localStorage.setItem("chequered", JSON.stringify(isChequered));
    this.tell("state");
  }
  setSnapping(isSnapping) {
    this.isSnapping = isSnapping;
    this.tell("state");
  }
  setSnapKind(kind, isOn) {
    this.snapKinds = isOn ? [...this.snapKinds, kind] : this.snapKinds.filter((other) => other !== kind);
    localStorage.setItem("snap-kinds", JSON.stringify(this.snapKinds));
    this.tell("state");
  }
  setSetsKeys(setsKeys) {
    this.setsKeys = setsKeys;
    localStorage.setItem("sets-keys", JSON.stringify(setsKeys));
    this.tell("state");
  }
  setWholeFrames(isWhole) {
    this.isWholeFrames = isWhole;
    localStorage.setItem("whole-frames", JSON.stringify(isWhole));
    this.tell("state");
  }
  setKeeps(keeps) {
    this.keeps = keeps;
    this.tell("state");
  }
}
