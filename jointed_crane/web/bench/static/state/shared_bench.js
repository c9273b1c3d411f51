// What the bench shows, and what all its areas share: the scene, what is picked, how one works, and the edits under way.

import { notice } from "../../notices.js";
import { withEdits } from "./edits.js";
import { withLooks } from "./looks.js";
import { withPreferences } from "./preferences.js";
import { SceneCopy } from "./scene_copy.js";
import { withSelection } from "./selection.js";

/**
 * Events: "scene" (parts or stage changed), "pose" (something lies elsewhere), "picked", "hovered", "state" (Rest, Motion,
 * tool or frame), "history", "pending" (changes without keys), "busy" (edits wait for their answers), "playing" (a film begins),
 * "looks" (how a scene that has depth is looked at), "seen" (views see something else).
 */
export class Bench extends withEdits(withLooks(withPreferences(withSelection(SceneCopy)))) {
  curves = []; // channels whose curves previews are to bring: [part, channel]
  teaching = null; // the lever that is taught by posing: {lever, channel}

  forgetGone() {
    super.forgetGone();
    if (this.teaching && !this.parts.has(this.teaching.lever)) this.teaching = null;
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

  /** Begin to teach a lever ({lever, channel}): changes wait until they are kept as what it does; null ends it. */
  teach(lever) {
    if (this.pending.edits.length) return void notice("Changes wait. Keep or discard them first.", { isRefusal: true });
    this.teaching = lever;
    if (lever) notice(`Set ${this.part(lever.lever).name}, pose the parts, then keep that.`);
    this.tell("pending", "picked");
  }
}
