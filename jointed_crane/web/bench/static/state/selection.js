// What is picked: parts, keys, footholds, markers, eyelets and marks; and the part under the pointer.

import { changesOf, goalsOf } from "./facts.js";

/**
 * A scene with what is picked of it.
 * @param {typeof import("./scene_copy.js").SceneCopy} Scene
 */
export const withSelection = (Scene) =>
  class extends Scene {
    /** @type {string[]} */
    picked = [];
    /** @type {PickedKey[]} */
    pickedKeys = [];
    /** @type {Stand | null} */
    pickedStand = null; // the foothold picked in the time panel, or what changes hands: {part, frame, constraint}
    /** @type {string | null} */
    pickedMarker = null; // the id of the marker or span picked there
    /** @type {Spot | null} */
    spot = null; // the eyelet or mark picked: {part, eyelet} or {mark}
    /** @type {string | null} */
    hovered = null; // the part under the pointer, on the stage or in the tree

    forgetGone() {
      super.forgetGone();
      this.picked = this.picked.filter((id) => this.parts.has(id));
      this.pickedKeys = this.pickedKeys.filter((key) => this.keyAt(key.part, key.channel, key.frame));
      if (this.spot && !this.spotThing) this.spot = null;
      if (this.pickedMarker && !this.markerPicked) this.pickedMarker = null;
      if (this.pickedStand && !this.#isThere(this.pickedStand)) this.pickedStand = null;
    }

    /**
     * Whether a foothold, or with a constraint the frame from which that changes hands, is still there.
     * @param {Stand} stand
     */
    #isThere({ part, frame, constraint }) {
      const { footholds = [], constraints = [] } = this.parts.get(part) ?? {};
      const result = constraint ? constraints.filter(({ id }) => id === constraint).flatMap(changesOf) : footholds;
      return result.some((one) => one.frame === frame);
    }

    /** Who has a say in where picked parts are: goals of what reaches, and levers; a hand that drags them keys these. */
    get related() {
      const result = this.picked.flatMap((id) => {
        const { constraints = [], links = [] } = this.part(id) ?? {};
        const goals = constraints.filter(({ is_on }) => is_on).flatMap((one) => goalsOf(one).map(({ part }) => part));
        return [...goals, ...links.map(({ source }) => source)];
      });
      return [...new Set(result)].filter((id) => this.parts.has(id) && !this.picked.includes(id));
    }

    get lead() {
      return this.picked.at(-1) ?? null;
    }

    /** The marker or span that is picked in the time panel, as it is kept; undefined for none. */
    get markerPicked() {
      return this.stage.markers.find(({ id }) => id === this.pickedMarker);
    }

    /**
     * The eyelet or mark that is picked, as it is now.
     * @returns {Spotted | null | undefined}
     */
    get spotThing() {
      if (this.spot?.mark) return this.marks.find((mark) => mark.id === this.spot.mark);
      return this.spot && this.part(this.spot.part)?.eyelets.find((eyelet) => eyelet.id === this.spot.eyelet);
    }

    /** @param {string[]} ids */
    pick(ids) {
      this.picked = ids.filter((id, index) => ids.indexOf(id) === index);
      // Keys of a part that is left are left with it: Delete and copying act on what one looks at.
      const looked = [...this.picked, ...this.related];
      this.pickedKeys = this.pickedKeys.filter(({ part }) => looked.includes(part));
      if (!this.picked.includes(this.pickedStand?.part)) this.pickedStand = null;
      this.spot = null;
      this.tell("picked");
    }

    /** @param {string | null} id */
    hover(id) {
      if (this.hovered === id) return;
      this.hovered = id;
      this.tell("hovered");
    }

    /**
     * Pick an eyelet ({part, eyelet}) or a mark ({mark}); null picks neither.
     * @param {Spot | null} spot
     */
    pickSpot(spot) {
      this.spot = spot;
      this.tell("picked");
    }

    /** @param {string} id */
    togglePick(id) {
      this.pick(this.picked.includes(id) ? this.picked.filter((other) => other !== id) : [...this.picked, id]);
    }

    /** @param {string | null} id */
    pickMarker(id) {
      this.pickedMarker = id;
      this.pickedStand = null;
      this.pickedKeys = [];
      this.tell("picked");
    }

    /** @param {Stand | null} stand */
    pickStand(stand) {
      this.pickedStand = stand;
      this.pickedMarker = null;
      this.pickedKeys = [];
      this.tell("picked");
    }

    /** @param {PickedKey[]} keys */
    pickKeys(keys) {
      this.pickedKeys = keys;
      if (keys.length) this.pickedMarker = null;
      this.pickedStand = null;
      this.tell("picked");
    }
  };
