// Edits, one after the other: what is sent to the server, what waits for it, and what it refused.

import { get, post } from "../../api.js";
import { notice, saying } from "../../notices.js";
import { facts } from "./facts.js";
import { Pending } from "./pending.js";
import { Previewer } from "./previewing.js";

/**
 * A scene that is edited.
 * @param {ReturnType<typeof import("./looks.js").withLooks>} Scene
 */
export const withEdits = (Scene) =>
  class extends Scene {
    /** @type {Promise<unknown>} */
    work = Promise.resolve();
    waiting = 0;
    pending = new Pending(/** @type {any} */ (this), facts.valueEdits);
    previewer = new Previewer(/** @type {any} */ (this));

    /**
     * Keep edits; resolves to the answer, or null where they were refused (the user has been told).
     * @param {Edit[]} edits
     * @returns {Promise<any>}
     */
    async keep(edits) {
      return this.pending.takes(edits) ? this.pending.add(edits) : this.keepNow(edits);
    }

    /** @param {Edit[]} edits */
    keepNow(edits) {
      return this.#queued(() =>
        post(`${this.path}/edits`, { version: this.version, frame: this.at, edits, keeps_before: this.keepsBefore }),
      );
    }

    undo() {
      if (this.pending.takeBack()) return Promise.resolve(null);
      return this.#queued(() => post(`${this.path}/undo`, { version: this.version, frame: this.at }));
    }

    redo() {
      return this.#queued(() => post(`${this.path}/redo`, { version: this.version, frame: this.at }));
    }

    /**
     * Anything else that answers like an edit, with more beside.
     * @param {() => Promise<any>} send
     * @returns {Promise<any>}
     */
    keepWith(send) {
      return this.#queued(send);
    }

    /**
     * @param {() => Promise<any>} send
     * @returns {Promise<any>}
     */
    #queued(send) {
      const step = this.work.then(async () => {
        try {
          const answer = await send();
          this.take(answer);
          for (const remark of answer.remarks ?? []) notice(remark);
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

    /**
     * What edits would show at this frame, and what curves, kept nowhere.
     * @param {Edit[]} edits
     * @param {[part: string, channel: string][]} curves
     * @returns {Promise<PreviewAnswer>}
     */
    async preview(edits, curves = []) {
      const { asked, looksKey } = this;
      const answer = await post(`${this.path}/preview`, {
        version: this.version,
        frame: this.at,
        edits,
        ...(curves.length && { curves }),
        ...asked,
      });
      return { ...answer, looksKey };
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
  };
