// The sheet of the scene itself: its name, size, ground, rate and length.

/**
 * What the head of the page does with it: ask, close and keep.
 * @param {Bench} bench
 * @returns {Record<string, Function> & ThisType<any>}
 */
export const stageSheet = (bench) => ({
  askStage() {
    const form = this.$refs.stage.querySelector("form");
    const { name, width, height, ground, fps, length } = bench.stage;
    form.elements.bare.checked = ground === "none";
    if (ground !== "none") form.elements.ground.value = ground;
    for (const [field, value] of Object.entries({ name, width, height, length, fps: fps.join("/") })) {
      form.elements.namedItem(field).value = value;
    }
    this.$refs.stage.showModal();
  },
  closeStage() {
    this.$refs.stage.close();
  },
  async keepStage(event) {
    const form = new FormData(event.target);
    const number = (field) => Number(form.get(field));
    const fps = String(form.get("fps")).split("/").map(Number);
    /** @type {any[]} */
    const edits = [
      { edit: "set_stage", width: number("width"), height: number("height"), ground: form.has("bare") ? "none" : form.get("ground") },
    ];
    if (number("length") !== bench.stage.length)
      edits.push({ edit: "set_length", length: number("length"), stretches: form.get("keeps") === "share", is_whole: form.has("whole") });
    if (fps.join() !== bench.stage.fps.join())
      edits.push({ edit: "set_rate", fps, keeps: form.get("keeps") === "frames" ? "frames" : "seconds", is_whole: form.has("whole") });
    if (form.get("name") !== bench.stage.name) edits.push({ edit: "rename_scene", name: form.get("name") });
    if (await bench.keep(edits)) this.$refs.stage.close();
  },
});
