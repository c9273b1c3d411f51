// How a scene that has depth is looked at: one, two or four views, and what each of them sees.

import { post } from "../../api.js";
import { saying } from "../../notices.js";

/** What the views show at first, one pane after the other. */
const FIRST = ["stage", "free", "top", "right"];
/** A free view begins so far round and above, degrees. */
const AROUND = { yaw: 32, pitch: 22 };
/** Where straight views stand, as a free one would; going round begins there. */
export const SIDES = {
  stage: { yaw: 0, pitch: 0 },
  front: { yaw: 0, pitch: 0 },
  back: { yaw: 180, pitch: 0 },
  top: { yaw: 0, pitch: 89.9 },
  below: { yaw: 0, pitch: -89.9 },
  left: { yaw: -90, pitch: 0 },
  right: { yaw: 90, pitch: 0 },
};

const placeOf = (id) => `looks-${id}`;

function remembered(id) {
  try {
    const { looks, count } = JSON.parse(localStorage.getItem(placeOf(id)));
    return looks?.length === FIRST.length && [1, 2, 4].includes(count) ? { looks, count } : null;
  } catch {
    return null;
  }
}

/**
 * A scene with views on it. What they see is in `seen`, one for each view that is shown, and `rings` has those on which the part
 * picked last turns; both follow previews at once and everything else with the next answer.
 * @param {ReturnType<typeof import("./preferences.js").withPreferences>} Scene
 */
export const withLooks = (Scene) =>
  class extends Scene {
    /** @type {SeenView[] | null} */
    seen = null;
    /** @type {Rings | null} */
    rings = null;
    /** @type {"sight" | "own" | "parent" | "stage"} */
    along = "sight"; // what arrows on the stage move along
    movesCamera = false; // whether drags in the stage's own view move the camera that is on
    active = 0; // the pane that was pointed at last
    #kept = null; // what views see of what is kept
    #isOld = false;
    #asking = null;

    /** @param {string} id */
    constructor(id) {
      super(id);
      const known = remembered(id);
      /** @type {Look[]} */
      this.looks = known?.looks ?? FIRST.map((side) => ({ side, ...(side === "free" && AROUND) }));
      this.count = known?.count ?? 1;
      this.before = this.looks.map(() => null);
      this.on("pose picked scene", () => this.isDeep && !this.over && this.refreshSeen());
    }

    get isDeep() {
      return Boolean(this.stage?.depth);
    }

    /** What previews ask for beside: the views that are shown, and whose rings. */
    get asked() {
      return this.isDeep ? { views: this.looks.slice(0, this.count).map(askedView), lead: this.lead } : {};
    }

    /** The camera that is on at the frame shown; null for the stage's own view. */
    get cameraOn() {
      if (!this.isDeep) return null;
      const begun = this.cuts.findLast(({ frame }) => this.isMotion && frame <= this.frame);
      return (begun ?? this.cuts[0])?.camera ?? null;
    }

    /** @param {boolean} isMoving */
    setMovesCamera(isMoving) {
      this.movesCamera = isMoving;
      this.tell("state");
    }

    /** Tells one way of looking from another. */
    get looksKey() {
      return JSON.stringify(this.asked);
    }

    /** Show what a preview answered; views see it with what it says of them. */
    show(preview) {
      this.#lay(preview);
      super.show(preview);
    }

    #lay(preview) {
      const isSame = preview?.seen?.length === this.#kept?.views.length;
      this.seen = this.#kept?.views.map((view, index) => (preview?.seen && isSame ? over(view, preview.seen[index]) : view));
      this.rings = (isSame && preview?.rings) || this.#kept?.rings || null;
    }

    /** Brings what the views see: one asking under way, and while things move on, the newest next. */
    refreshSeen() {
      this.#isOld = true;
      this.#asking ??= this.#askSeen().finally(() => {
        this.#asking = null;
      });
      return this.#asking;
    }

    async #askSeen() {
      while (this.#isOld && this.isDeep) {
        this.#isOld = false;
        const key = this.looksKey;
        const answer = await saying(() => post(`${this.path}/seen`, { frame: this.at, ...this.asked }));
        if (!answer) return;
        if (key !== this.looksKey || answer.version !== this.version || answer.frame !== this.at) {
          this.#isOld ||= answer.version >= this.version || key !== this.looksKey;
          if (answer.version > this.version) await /** @type {any} */ (this).refreshPose();
          continue;
        }
        this.#kept = answer;
        this.#lay(this.over && key === this.over.looksKey ? this.over : null);
        this.tell("seen");
      }
    }

    /** @param {"sight" | "own" | "parent" | "stage"} along */
    setAlong(along) {
      this.along = along;
      this.tell("state", "seen");
    }

    /** @param {number} index */
    setActive(index) {
      if (this.active === index) return;
      this.active = index;
      this.tell("looks");
    }

    /**
     * Look otherwise in one view; `isWay` leaves the view before where it is, as going round does.
     * @param {number} index
     * @param {Partial<Look>} look
     */
    setLook(index, look, isWay = false) {
      if (!isWay) this.before[index] = this.looks[index];
      const known = this.looks[index];
      this.looks[index] = { ...(look.side === "free" && known.yaw === undefined && AROUND), ...known, ...look };
      this.#looked();
    }

    /** Back to the view before, and once more back from there. */
    lookBack(index = this.active) {
      const known = this.before[index];
      if (known) this.setLook(index, known);
      return Boolean(known);
    }

    /** @param {number} count */
    setCount(count) {
      this.count = count;
      this.active = Math.min(this.active, count - 1);
      this.#looked();
    }

    #looked() {
      localStorage.setItem(placeOf(this.id), JSON.stringify({ looks: this.looks, count: this.count }));
      this.tell("looks");
      if (this.isDeep) this.refreshSeen();
      if (this.over) this.tell("state"); // what waits without keys is asked for once more
    }
  };

/** @param {Look} look */
export const askedView = ({ side, at, yaw, pitch, distance }) =>
  side === "free" ? { side, at: at ?? null, yaw: yaw ?? 0, pitch: pitch ?? 0, distance: distance ?? null } : { side };

/** A view as a preview has it, over what is kept. */
function over(view, preview) {
  return { ...view, ...preview, parts: { ...view.parts, ...preview.parts }, painting: preview.painting ?? view.painting };
}
