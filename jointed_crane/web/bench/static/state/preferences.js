// How one works: the tool, what things turn about, snapping, and the switches that a browser remembers.

import { squareAt } from "./squares.js";

const SNAP = 9; // px on the screen within which a point is drawn to a place
const DEFAULT_SNAPS = ["nine points", "pivots", "eyelets", "marks"];
export const ABOUT = ["own pivots", "shared centre", "last picked", "parent's pivot"];

function remembered(name, initial) {
  try {
    return JSON.parse(localStorage.getItem(name)) ?? initial;
  } catch {
    return initial;
  }
}

/**
 * A scene with how one works on it.
 * @param {ReturnType<typeof import("./selection.js").withSelection>} Scene
 */
export const withPreferences = (Scene) =>
  class extends Scene {
    tool = "move";
    /** @type {"art" | "pivot"} */
    keeps = "art";
    about = "own pivots";
    isSnapping = true;
    snapKinds = remembered("snap-kinds", DEFAULT_SNAPS);
    isChequered = remembered("chequered", false);
    setsKeys = remembered("sets-keys", true);
    keepsBefore = remembered("keeps-before", true);
    keepsRatio = remembered("keeps-ratio", false);
    isWholeFrames = remembered("whole-frames", true);

    forgetGone() {
      super.forgetGone();
      if (!ABOUT.includes(this.about) && !this.stage.marks.some((mark) => mark.id === this.about)) this.about = "own pivots";
    }

    /** Frames that a hand has dragged over: whole ones, or any where the switch says so; Alt turns that round. */
    dragged(frames, { altKey }) {
      return this.isWholeFrames !== altKey ? Math.round(frames) : frames;
    }

    /** What a snapping edit is sent at a zoom: how near, to what, and the squares of the mat as they are drawn. */
    snapping(isLeft, zoom) {
      const within = isLeft || !this.isSnapping ? 0 : SNAP / zoom;
      return { within, to: this.snapKinds, grid: squareAt(zoom) };
    }

    /** What stays when a registration moves: "art" while art stays, else the zero itself. */
    get keepsZero() {
      return this.keeps === "art" ? "art" : "registration";
    }

    get isTogether() {
      return this.about !== "own pivots" && this.picked.length > 1;
    }

    /** Set one of its fields, for this browser from now on. */
    #remember(field, name, value) {
      this[field] = value;
      localStorage.setItem(name, JSON.stringify(value));
      this.tell("state");
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
      this.#remember("isChequered", "chequered", isChequered);
    }

    setSnapping(isSnapping) {
      this.isSnapping = isSnapping;
      this.tell("state");
    }

    setSnapKind(kind, isOn) {
      this.#remember("snapKinds", "snap-kinds", isOn ? [...this.snapKinds, kind] : this.snapKinds.filter((other) => other !== kind));
    }

    setKeepsBefore(keepsBefore) {
      this.#remember("keepsBefore", "keeps-before", keepsBefore);
    }

    setKeepsRatio(keepsRatio) {
      this.#remember("keepsRatio", "keeps-ratio", keepsRatio);
    }

    setSetsKeys(setsKeys) {
      this.#remember("setsKeys", "sets-keys", setsKeys);
    }

    setWholeFrames(isWhole) {
      this.#remember("isWholeFrames", "whole-frames", isWhole);
    }

    setKeeps(keeps) {
      this.keeps = keeps;
      this.tell("state");
    }
  };
