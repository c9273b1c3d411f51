// The previews of drags and fields, one for the whole page: at most one under way, the newest pointer sent next, the last one always answered.

export class Previewer {
  /** @param {Bench} bench */
  constructor(bench) {
    this.bench = bench;
    /** @type {Edit[] | null} */
    this.waiting = null;
    /** @type {Promise<void> | null} */
    this.running = null;
    this.generation = 0;
    /** @type {string | null} */
    this.said = null;
  }

  /**
   * Ask to see edits; a later asking takes the place of one that has not been sent.
   * @param {Edit[]} edits
   */
  ask(edits) {
    this.waiting = edits;
    if (this.running) return;
    const run = this.#run().finally(() => {
      if (this.running === run) this.running = null;
    });
    this.running = run;
  }

  async #run() {
    const generation = this.generation;
    while (this.waiting && generation === this.generation) {
      const edits = this.waiting;
      this.waiting = null;
      try {
        await this.bench.work;
        const { curves, pending } = this.bench;
        const answer = await this.bench.preview([...pending.edits, ...edits], curves);
        if (generation === this.generation) this.bench.show(answer);
      } catch (error) {
        if (error.status === undefined) throw error;
        if (generation === this.generation) await this.#refused(error);
      }
    }
  }

  /** Told once, however often the pointer goes on asking for the same. */
  async #refused(error) {
    if (this.said === error.message) return;
    this.said = error.message;
    await this.bench.refused(error);
  }

  /**
   * Let go: keep the edits; what the preview showed stays until the answer replaces it.
   * @param {Edit[] | null} [edits]
   */
  async keep(edits) {
    this.#stop();
    return edits ? this.bench.keep(edits) : this.cancel();
  }

  /** Take the preview away. */
  cancel() {
    this.#stop();
    this.bench.show(null);
  }

  #stop() {
    this.generation += 1;
    this.waiting = null;
    this.running = null;
    this.said = null;
  }
}
