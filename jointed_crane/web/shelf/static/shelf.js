// The shelf: choosing, making, copying, renaming and deleting scenes.

import Alpine from "../vendor/alpine-csp.js";
import { post } from "../api.js";
import { droppedFiles, postFiles } from "../reading.js";
import { sendOut } from "../sending.js";
import { notice, saying } from "../notices.js";

const fresh = () => location.reload();

/** The menu of a scene, and the dialogs that ask before something is done. */
const menus = {
  openMenu(event) {
    event.stopPropagation();
    this.menuFor = event.target.closest("li.card");
    const place = event.target.closest("button").getBoundingClientRect();
    const menu = this.$refs.menu;
    this.$nextTick(() => {
      menu.style.setProperty("left", `${Math.max(Math.min(place.left, innerWidth - menu.offsetWidth - 8), 0)}px`);
      menu.style.setProperty("top", `${Math.max(Math.min(place.bottom + 4, innerHeight - menu.offsetHeight - 8), 0)}px`);
      menu.querySelector("button").focus();
    });
  },
  closeMenu() {
    this.menuFor?.querySelector("button").focus();
    this.menuFor = null;
  },
  close(name) {
    this.$refs[name].close();
  },

  askNew() {
    this.$refs.newScene.showModal();
    this.$refs.newScene.querySelector("[name=name]").select();
  },
  askHelp() {
    this.$refs.help.showModal();
  },
  askRename() {
    const card = this.chosen();
    if (!card) return;
    this.renaming = card.dataset.id;
    this.menuFor = null;
    this.$refs.rename.showModal();
    const field = this.$refs.rename.querySelector("input");
    field.value = card.dataset.name;
    field.select();
  },
  chooseFile() {
    this.$refs.file.click();
  },
};

/** What is done with scenes: each act is kept by the server, then the page is read anew. */
const scenes = {
  open() {
    const card = this.chosen();
    if (card) location.href = `/scenes/${card.dataset.id}`;
  },
  async create(event) {
    const form = new FormData(event.target);
    const scene = {
      name: form.get("name"),
      width: Number(form.get("width")),
      height: Number(form.get("height")),
      fps: String(form.get("fps")).split("/").map(Number),
      length: Number(form.get("length")),
      ground: form.has("bare") ? "none" : form.get("ground"),
    };
    const made = await saying(() => post("/api/scenes", scene));
    if (made) location.href = `/scenes/${made.id}`;
  },
  async rename(event) {
    const name = new FormData(event.target).get("name");
    if (await saying(() => post(`/api/scenes/${this.renaming}/rename`, { name }))) fresh();
  },
  async duplicate() {
    const card = this.chosen();
    if (card && (await saying(() => post(`/api/scenes/${card.dataset.id}/duplicate`)))) fresh();
  },
  async remove() {
    const card = this.chosen();
    if (card && (await saying(() => post(`/api/scenes/${card.dataset.id}/delete`)))) fresh();
  },
  sendPage() {
    location.href = `/scenes/${this.chosen().dataset.id}/send`;
  },
  send(event) {
    const { form } = event.currentTarget.dataset;
    const card = this.chosen();
    this.menuFor = null;
    if (card) saying(() => sendOut(`/api/scenes/${card.dataset.id}/send/${form}`, "Sending the scene out"));
  },
  async addExamples() {
    notice("Making the demo scenes");
    if (await saying(() => post("/api/examples"))) fresh();
  },
  async undo() {
    if (await saying(() => post("/api/shelf/undo"))) fresh();
  },
  async redo() {
    if (await saying(() => post("/api/shelf/redo"))) fresh();
  },
};

/** Files that are dropped or chosen. */
const files = {
  dragOver() {
    this.over = true;
    clearTimeout(this.overTimer);
    this.overTimer = setTimeout(() => {
      this.over = false;
    }, 200);
  },
  async drop(event) {
    this.over = false;
    this.openFiles(await droppedFiles(event.dataTransfer));
  },
  opened(event) {
    this.openFiles(event.target.files);
    event.target.value = "";
  },
  async openFiles(files) {
    if (!files.length) return;
    files = [...files];
    const made = await saying(() => postFiles("/api/open", files));
    if (!made) return;
    if (made.notes.length) sessionStorage.setItem("notes", made.notes.join(" "));
    location.href = `/scenes/${made.id}`;
  },
};

/** The keys of the shelf. */
const keyboard = {
  key(event) {
    if (event.target.closest("dialog, input, select") || event.altKey) return;
    const command = event.ctrlKey || event.metaKey;
    const letter = event.key.toLowerCase();
    const acts = command
      ? { z: () => (event.shiftKey ? this.redo() : this.undo()) }
      : {
          n: () => this.askNew(),
          b: () => this.chooseFile(),
          r: () => this.askRename(),
          d: () => this.duplicate(),
          delete: () => this.remove(),
          "?": () => this.askHelp(),
          arrowright: () => this.step(1),
          arrowleft: () => this.step(-1),
          arrowdown: () => this.step(this.columns()),
          arrowup: () => this.step(-this.columns()),
        };
    if (!acts[letter] || (this.menuFor && letter.startsWith("arrow"))) return;
    event.preventDefault();
    acts[letter]();
  },
  columns() {
    const tops = this.cards().map((card) => card.offsetTop);
    return Math.max(1, tops.filter((top) => top === tops[0]).length);
  },
  step(by) {
    const cards = this.cards();
    if (!cards.length) return;
    const at = cards.findIndex((card) => card.matches(":focus-within"));
    const next = at < 0 ? 0 : Math.min(Math.max(at + by, 0), cards.length - 1);
    cards[next].querySelector("a").focus();
  },
};

Alpine.data("shelf", () => ({
  over: false,
  menuFor: null,
  undoLabel: "",
  redoLabel: "",

  init() {
    this.undoLabel = this.$root.dataset.undo;
    this.redoLabel = this.$root.dataset.redo;
  },
  get undoText() {
    return `Undo: “${this.undoLabel}” · Ctrl+Z`;
  },
  get redoText() {
    return `Redo: “${this.redoLabel}”`;
  },

  cards() {
    return [...document.querySelectorAll("li.card")];
  },
  chosen() {
    return this.menuFor ?? document.querySelector("li.card:focus-within");
  },

  ...menus,
  ...scenes,
  ...files,
  ...keyboard,
}));

Alpine.start();
