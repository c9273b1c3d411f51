// What is picked: parts, keys, footholds, markers, eyelets and marks; and the part under the pointer.

import { changesOf } from "./facts.js";

/** A scene with what is picked of it. */
export const withSelection = (Scene) =>
  class extends Scene {
    picked = [];
    pickedKeys = [];
    pickedStand = null; // the foothold picked in the time panel, or what changes hands: {part, frame, constraint}
    pickedMarker = null; // the id of the marker or span picked there
    spot = null; // the eyelet or mark picked: {part, eyelet} or {mark}
    hovered = null; // the part under the pointer, on the stage or in the tree

    forgetGone() {
      super.forgetGone();
      this.picked = this.picked.filter((id) => this.parts.has(id));
      this.pickedKeys = this.pickedKeys.filter((key) => this.keyAt(key.part, key.channel, key.frame));
      if (this.spot && !this.spotThing) this.spot = null;
      if (this.pickedMarker && !this.markerPicked) this.pickedMarker = null;
      if (this.pickedStand && !this.#isThere(this.pickedStand)) this.pickedStand = null;
    }

    /** Whether a foothold, or with a constraint the frame from which that changes hands, is still there. */
    #isThere({ part, frame, constraint }) {
      const { footholds = [], constraints = [] } = this.parts.get(part) ?? {};
      const found = constraint ? constraints.filter(({ id }) => id === constraint).flatMap(changesOf) : footholds;
      return found.some((one) => one.frame === frame);
    }

    get lead() {
      return this.picked.at(-1) ?? null;
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
  };
