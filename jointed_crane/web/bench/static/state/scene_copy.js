// The scene as the server last gave it, at one state and frame, and a preview laid over it.

import { get } from "../../api.js";
import { channelKind, isStep, stepsOf } from "./facts.js";

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
 * What is kept is in `parts`, `order`, `stage` and `pose`; what a preview shows instead is in `over`. Who knows more of the scene
 * forgets what is gone in `forgetGone`, before anybody is told.
 */
export class SceneCopy extends EventTarget {
  /** @type {Map<string, Part>} */
  parts = new Map();
  /** @type {string[]} */
  order = [];
  /** @type {Pose} */
  pose = { frame: null, parts: {}, painting: [], motion: {}, shapes: {} };
  /** @type {Shown} */
  over = null;
  /** @type {Stage} */
  stage = null;
  isMotion = false;
  frame = 0;
  version = 0;
  /** @type {string | null} */
  undoLabel = null;
  /** @type {string | null} */
  redoLabel = null;
  /** @type {Map<string | null, string[]>} */
  below = null; // children by parent, made when somebody asks

  /** @param {string} id */
  constructor(id) {
    super();
    this.id = id;
    this.path = `/api/scenes/${id}`;
  }

  /** @param {string[]} names */
  tell(...names) {
    for (const name of names) this.dispatchEvent(new Event(name));
  }

  /**
   * @param {string} names
   * @param {(event: Event) => unknown} act
   */
  on(names, act) {
    for (const name of names.split(" ")) this.addEventListener(name, act);
  }

  /** The frame edits are made at: null in Rest. */
  get at() {
    return this.isMotion ? this.frame : null;
  }

  async load() {
    /** @type {SceneAnswer} */
    const answer = await get(`${this.path}?frame=${this.at ?? "rest"}`);
    this.parts = new Map(answer.scene.parts.map((part) => [part.id, part]));
    this.order = answer.scene.parts.map((part) => part.id);
    this.below = null;
    const { name, width, height, ground, fps, length, marks, isolated, markers, poses, depth, cuts } = answer.scene;
    this.stage = { name, width, height, ground, fps, length, marks, isolated, markers, poses, depth, cuts };
    this.over = null;
    this.#history(answer);
    this.pose = answer.pose;
    this.forgetGone();
    this.tell("scene", "pose", "picked", "history");
  }

  /** @param {SceneAnswer | ChangeAnswer} answer */
  #history(answer) {
    this.version = answer.version;
    this.undoLabel = answer.undo;
    this.redoLabel = answer.redo;
  }

  /**
   * What an edit, an undo or a redo answered is how things are now.
   * @param {ChangeAnswer} answer
   */
  take(answer) {
    for (const id of answer.removed) this.parts.delete(id);
    for (const part of answer.changed) this.parts.set(part.id, { ...this.parts.get(part.id), ...part });
    if (answer.order) this.order = answer.order;
    this.below = null;
    if (answer.stage) this.stage = answer.stage;
    if ("undo" in answer) this.#history(answer);
    this.frame = Math.min(this.frame, this.stage.length - 1);
    this.pose = answer.pose;
    this.over = null;
    this.forgetGone();
    this.tell("scene", "pose", "picked", "history");
  }

  forgetGone() {}

  /**
   * Show what a preview answered, over what is kept; null takes it away.
   * @param {PreviewAnswer | null} preview
   */
  show(preview) {
    this.over = preview && {
      parts: new Map(preview.changed.map((part) => [part.id, laidOver(this.parts.get(part.id), part)])),
      pose: preview.pose,
      snap: preview.snap,
      marks: preview.stage?.marks,
      markers: preview.stage?.markers,
      cuts: preview.stage?.cuts,
      curves: preview.curves,
      seen: preview.seen,
      rings: preview.rings,
      looksKey: preview.looksKey,
    };
    this.tell("pose");
  }

  // Reading

  /** @param {string | null} id */
  part(id) {
    return this.over?.parts.get(id) ?? this.parts.get(id);
  }

  /**
   * @param {string} id
   * @returns {Placed}
   */
  poseOf(id) {
    return this.over?.pose.parts[id] ?? this.pose.parts[id];
  }

  /**
   * The shape of a part's drawing as it is shown now, with what moves it: {d, fill, stroke, width, shape}, or null.
   * @param {string} id
   */
  movingShape(id) {
    const from = this.over?.parts.has(id) || this.over?.pose.shapes?.[id] ? this.over.pose.shapes : this.pose.shapes;
    return from?.[id] ?? null;
  }

  /**
   * What is known of a channel by its name.
   * @param {string} name
   */
  channel(name) {
    return channelKind(name);
  }

  /**
   * A channel of a part as rows call it; numbers of constraints by the name of theirs too.
   * @param {string} id
   * @param {string} channel
   */
  channelOf(id, channel) {
    const constraint = this.part(id)?.constraints.find((one) => channel.startsWith(`constraint.${one.id}.`));
    return constraint ? `${this.channel(channel).label}, ${constraint.name}` : this.channel(channel).label;
  }

  /**
   * A number as the screen shows it: the rest value in Rest, the motion value in Motion.
   * @param {string} id
   * @param {string} channel
   * @returns {number}
   */
  value(id, channel) {
    const part = this.part(id);
    const { neutral, joins } = this.channel(channel);
    if (!this.isMotion) return part.rest[channel] ?? neutral;
    const over = this.over?.pose.motion[id];
    const motion = over && channel in over ? over[channel] : this.pose.motion[id]?.[channel];
    return motion ?? (joins === "replace" ? (part.rest[channel] ?? neutral) : neutral);
  }

  /**
   * @param {string} id
   * @param {string} channel
   * @param {number} frame
   */
  keyAt(id, channel, frame) {
    return this.keysOf(id, channel).find((key) => Math.abs(key.frame - frame) < 1e-6);
  }

  /**
   * The keys of a channel, or what takes hold of a part by the name under which that is picked.
   * @param {string} id
   * @param {string} channel
   * @returns {any[]}
   */
  keysOf(id, channel) {
    const part = this.part(id);
    if (part && isStep(channel)) return stepsOf(part).filter((step) => step.channel === channel);
    return part?.channels[channel]?.keys ?? [];
  }

  /**
   * @param {string} id
   * @param {string} channel
   */
  isKeyed(id, channel) {
    return this.isMotion && Boolean(this.keyAt(id, channel, this.frame));
  }

  /**
   * Ids of the parts that hang on a part (null: on the stage), back to front.
   * @param {string | null} id
   * @returns {string[]}
   */
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

  /**
   * Whether the bench shows a part: not hidden, and among the isolated ones where some are.
   * @param {string} id
   */
  isSeen(id) {
    const { isolated } = this.stage;
    return !this.part(id).hidden && (!isolated.length || isolated.includes(id));
  }

  get marks() {
    return this.over?.marks ?? this.stage.marks;
  }

  get cuts() {
    return this.over?.cuts ?? this.stage.cuts;
  }

  get markers() {
    return this.over?.markers ?? this.stage.markers;
  }

  /**
   * Ids from the parent up to the stage.
   * @param {string} id
   */
  ancestors(id) {
    const result = [];
    for (let at = this.parts.get(id)?.parent; at; at = this.parts.get(at)?.parent) result.push(at);
    return result;
  }

  /** @param {string} id */
  drawingOf(id) {
    const part = this.part(id);
    return part?.drawings[Math.max(this.poseOf(id)?.drawing ?? 0, 0)] ?? null;
  }

  /**
   * Where an art point lies on the stage.
   * @param {string} id
   * @param {number[]} point
   * @returns {[number, number]}
   */
  onStage(id, [x, y]) {
    const [a, b, c, d, e, f] = this.poseOf(id).matrix;
    return [a * x + c * y + e, b * x + d * y + f];
  }

  get fps() {
    return this.stage.fps[0] / this.stage.fps[1];
  }
}
