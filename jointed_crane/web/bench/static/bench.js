// The bench: mounts each area of the page on one shared state.

import Alpine from "../vendor/alpine-csp.js";
import { get } from "../api.js";
import { notice, saying } from "../notices.js";
import { droppedFiles } from "../reading.js";
import { copyPicture, sendOut } from "../sending.js";
import { makeActs } from "./acts/acts.js";
import { mountCard } from "./card/card.js";
import { makeCommands } from "./commands/commands.js";
import { mountCommands } from "./sheets/command_lists.js";
import { makeDrawingTool } from "./stage/drags/drawing_tool.js";
import { mountDeepFigures } from "./stage/deep_figures.js";
import { mountFigures } from "./stage/figures.js";
import { lookActs, mountPanes } from "./stage/panes.js";
import { mountHandles } from "./stage/signs/handles.js";
import { mountFindings } from "./card/findings.js";
import { mountKeyboard } from "./commands/keyboard.js";
import { Keys } from "./commands/keys.js";
import { mountPanels } from "./elements/panels.js";
import { mountKeepsBefore, mountPending } from "./state/pending.js";
import { mountArcs } from "./stage/signs/arcs.js";
import { mountGhosts } from "./stage/signs/ghosts.js";
import { mountSeeing, Seeing } from "./state/seeing.js";
import { mountPlay } from "./time/play.js";
import { mountFirstSteps } from "./sheets/first_steps.js";
import { mountSheets } from "./sheets/sheets.js";
import { stageSheet } from "./sheets/stage_sheet.js";
import { mountLeverHandles } from "./stage/signs/lever_handles.js";
import { mountBoard } from "./board/board.js";
import { mountSpots } from "./stage/signs/spots.js";
import { facts, learn } from "./state/facts.js";
import { comeBack, rememberWhenLeft } from "./state/left_here.js";
import { Bench } from "./state/shared_bench.js";
import { ABOUT } from "./state/preferences.js";
import { mountTime } from "./time/time.js";
import { mountTools, partsAt } from "./stage/tools.js";
import { mountTree } from "./tree/tree.js";
import { View } from "./stage/view.js";

const root = document.querySelector("[data-bench=root]");
learn(JSON.parse(root.dataset.known));
const bench = new Bench(root.dataset.scene);
const find = (name) => root.querySelector(`[data-bench=${name}]`);

// The head and the tray: what Alpine draws from the state

Alpine.data("head", () => ({
  isMotion: false,
  isDeep: false,
  undoLabel: null,
  redoLabel: null,
  tool: "move",
  keeps: "art",
  isSnapping: true,
  isSending: false,
  isChoosingSnaps: false,
  name: "",
  notes: [],
  init() {
    bench.on("state", () => {
      this.isMotion = bench.isMotion;
      this.tool = bench.tool;
      this.keeps = bench.keeps;
      this.isSnapping = bench.isSnapping;
    });
    bench.on("scene", () => {
      this.isDeep = bench.isDeep;
    });
    bench.on("history pending", () => {
      this.undoLabel = bench.pending.edits.length ? "the change that has no key yet" : bench.undoLabel;
      this.redoLabel = bench.redoLabel;
      this.name = bench.stage.name;
    });
  },
  rest: () => bench.setMotion(false),
  motion: () => bench.setMotion(true),
  depth: () => bench.keep([{ edit: "set_stage", depth: !bench.isDeep }]),
  undo: () => bench.undo(),
  redo: () => bench.redo(),
  pickTool(event) {
    bench.setTool(event.currentTarget.dataset.tool);
  },
  pressed(tool) {
    return this.tool === tool;
  },
  keep(event) {
    bench.setKeeps(event.currentTarget.dataset.keep);
  },
  get isTurning() {
    return ["move", "turn", "scale"].includes(this.tool);
  },
  get isPlacing() {
    return this.tool === "pivot";
  },
  get isDrawing() {
    return this.tool === "draw";
  },
  snap: () => bench.setSnapping(!bench.isSnapping),
  snapKind: (event) => bench.setSnapKind(event.target.dataset.snap, event.target.checked),
  toggleSnaps() {
    this.isChoosingSnaps = !this.isChoosingSnaps;
  },
  closeSnaps() {
    this.isChoosingSnaps = false;
  },
  chooseFiles: () => chooseArtwork(),
  askCommands: () => menu.openSheet(),
  toggleSending() {
    this.isSending = !this.isSending;
  },
  closeSending() {
    this.isSending = false;
  },
  async send(event) {
    const { form } = event.currentTarget.dataset;
    this.isSending = false;
    await bench.work;
    const query = form === "still" ? `?frame=${bench.at ?? "rest"}` : "";
    const sent = saying(() => sendOut(`${bench.path}/send/${form}${query}`, "Sending the scene out"));
    if (form !== "svg") return sent;
    const answer = await saying(() => get(`${bench.path}/notes`));
    if (answer?.notes.length) notice(answer.notes.join(" "));
  },
  ...stageSheet(bench),
  closeHelp: () => find("help").close(),
}));

const stage = find("stage");
/** The view that was pointed at last. @type {View} */
const view = new Proxy(/** @type {any} */ ({}), {
  get: (_, name) => {
    const now = panes.active().view;
    return typeof now[name] === "function" ? now[name].bind(now) : now[name];
  },
});
const playing = { isPlaying: false, redraw };
function redraw() {
  for (const pane of panes.shown()) pane.drag.redraw();
}
const acts = makeActs(root, bench, view);
const seeing = new Seeing();
const see = mountSeeing(find("seeing"), root.querySelector("#seeing"), seeing, bench);
const board = mountBoard(find("board"), find("levers"), bench);
const hint = {
  addHelper: acts.addHelper,
  addMark: acts.addMark,
  toMotion() {
    bench.setMotion(true);
    notice("Parts stand on points in Motion, from a frame on. It is shown now; press the point again.");
  },
  say(text, place) {
    find("hint").textContent = text || (bench.order.length ? "" : "Drop a drawing on the stage to begin");
    find("place").textContent = place;
  },
};

/** All that one pane draws and takes hold of. */
function mountPane(element, index) {
  const own = new View(element, bench, index);
  const drag = Object.assign(Object.create(playing), { text: "", at: [0, 0], redraw() {} });
  const over = element.querySelector("[data-stage-over]");
  const flat = index === 0 ? mountFigures(element, find("figures"), over, bench, own) : null;
  const deep = mountDeepFigures(element.querySelector("[data-stage-deep]"), over, bench, own);
  mountGhosts(over, bench, own, seeing, drag);
  mountSpots(over, bench, own, drag);
  const handles = mountHandles(over, bench, own, drag);
  mountArcs(over, bench, own, seeing, drag); // above the ring, which would keep its keys from being pressed
  mountLeverHandles(over, bench, own, drag);
  const drawing = makeDrawingTool(over, bench, own, acts, drag, find("form"));
  mountTools(
    element,
    over,
    bench,
    own,
    drag,
    Object.assign(Object.create(hint), { drawDrag: drawing.begin, drawWords: drawing.words }),
    handles,
  );
  onStage(element);
  const fitter = new ResizeObserver(() => own.isFitted && bench.stage && own.fit());
  fitter.observe(element);
  return { view: own, drag, drawing, flat, deep };
}
const panes = mountPanes(find("panes"), bench, mountPane);
const sheets = mountSheets(root, bench, panes.first.view, acts);
Object.assign(hint, { askScaling: sheets.askScaling, scalingMeant: sheets.scalingMeant });
const drawing = { cancel: () => panes.shown().some((pane) => pane.drawing.cancel()) };
const play = mountPlay(find("time"), root.querySelector("#pace"), bench, panes, playing);
const toggleKeys = mountPending(find("pending"), root.querySelector("[data-time=sets]"), bench);
const toggleBefore = mountKeepsBefore(root.querySelector("[data-time=before]"), bench);
const time = mountTime(find("time"), root.querySelector("#shapes"), bench, play, sheets);

/** Choose files and look at their layers before they come in. */
async function chooseArtwork() {
  sheets.openImport(await sheets.pickFiles("files"));
}
function nextAbout() {
  const choices = [...find("about").options].map((option) => option.value);
  bench.setAbout(choices[(choices.indexOf(bench.about) + 1) % choices.length]);
  notice(`Turn about: ${find("about").selectedOptions[0].text}.`);
}
const commands = makeCommands(bench, acts, {
  time,
  board,
  play,
  see: { ...see, keys: toggleKeys, keepsBefore: toggleBefore },
  drawing,
  looks: lookActs(bench, panes),
  sheets: {
    ...sheets,
    artwork: chooseArtwork,
    update: async () => sheets.openUpdate(await sheets.pickFile()),
    nextAbout,
    commands: () => menu.openSheet(),
    help: () => menu.openShortcuts(),
    stage: () => find("stage-button").click(),
    sendOut: () => {
      location.href = `${find("send-page").href}#frame=${Math.round(bench.at ?? 0)}`;
    },
    copyStill: () => saying(() => copyPicture(`${bench.path}/send/still?frame=${bench.at ?? "rest"}`)),
    check: () => {
      location.href = find("check").href;
    },
    map: () => {
      location.href = `/scenes/${bench.id}/map`;
    },
  },
});
const keys = new Keys(commands, facts.keys);
const menu = mountCommands(root, keys);
mountTree(find("tree"), bench, acts, menu);
mountCard(find("card"), bench, acts, sheets);
mountPanels(root);
mountKeyboard(bench, keys, menu);
mountFindings(find("finding-count"), bench);
mountFirstSteps(find("first-steps"), bench);

/** What a pane does with presses that no tool takes: the menu, and words to be typed. */
function onStage(element) {
  element.addEventListener("contextmenu", (event) => {
    event.preventDefault();
    const parts = partsAt(event).map((part) => bench.part(part));
    const id = parts[0]?.id;
    if (id && !parts.some((part) => bench.picked.includes(part.id))) bench.pick([id]);
    const here = { parts, picked: bench.lead, pick: (part) => bench.pick([part]) };
    if (bench.lead) menu.openMenu(event.clientX, event.clientY, element, here);
  });
  element.addEventListener("dblclick", ({ target }) => {
    const id = /** @type {HTMLElement} */ (target).dataset?.pick;
    if (!id || bench.part(id).kind !== "text") return;
    bench.pick([id]);
    acts.editWords();
  });
}

// What several parts turn about, and what dragged points snap to

function drawAbout() {
  const words = {
    "shared centre": "their middle",
    "last picked": bench.lead ? bench.part(bench.lead).name : "the last",
    "parent's pivot": "its parent",
  };
  const together = document.createElement("optgroup");
  together.label = "together about";
  together.append(
    ...ABOUT.slice(1).map((about) => new Option(words[about], about)),
    ...bench.stage.marks.map((mark) => new Option(mark.name, mark.id)),
  );
  find("about").replaceChildren(new Option("each for itself", ABOUT[0]), together);
  find("about").value = bench.about;
  find("together").hidden = bench.picked.length < 2 || !["move", "turn", "scale"].includes(bench.tool);
}
find("about").addEventListener("change", (event) => bench.setAbout(event.target.value));
bench.on("scene state picked", () => bench.stage && drawAbout());
bench.on("state", () => {
  for (const box of root.querySelectorAll("[data-snap]")) box.checked = bench.snapKinds.includes(box.dataset.snap);
});

bench.on("scene", () => {
  find("nothing").hidden = bench.order.length > 0;
  document.title = `${bench.stage.name} · Jointed Crane`;
});
bench.on("busy", () => root.setAttribute("aria-busy", bench.waiting > 0));
bench.on("state scene", () => root.classList.toggle("is-motion", bench.isMotion));

// Drop files anywhere on the bench

const isFiles = (event) => event.dataTransfer?.types.includes("Files");
addEventListener("dragover", (event) => isFiles(event) && event.preventDefault());
addEventListener("drop", async (event) => {
  if (!isFiles(event)) return;
  event.preventDefault();
  const isOnStage = stage.contains(/** @type {Node} */ (event.target));
  const { view: first } = panes.first;
  const middle = isOnStage && first.isFromFront ? first.toStage(first.at(event)) : null;
  sheets.openImport(await droppedFiles(event.dataTransfer), middle);
});

/** What is said lies over the stage, never on keys, nor on the buttons of changes that wait. */
function placeNotices() {
  const { left, right, bottom } = find("panes").getBoundingClientRect();
  const pending = find("pending");
  const lowest = pending.hidden ? bottom : pending.getBoundingClientRect().top;
  const { style } = document.documentElement;
  style.setProperty("--notices-left", `${left}px`);
  style.setProperty("--notices-right", `${innerWidth - right}px`);
  style.setProperty("--notices-bottom", `${innerHeight - lowest + 12}px`);
}
bench.on("pending", placeNotices);
new ResizeObserver(placeNotices).observe(find("panes"));
find("fit").addEventListener("click", () => view.fit());

Alpine.start();
// Nothing of Alpine's is ever added to this page; without this it would walk through every row and node that is drawn.
Alpine.stopObservingMutations();
await bench.load();
view.fit();
bench.tell("state");
// A figure that is joined and keyed is opened to be moved; a fresh one to be built.
rememberWhenLeft(bench);
const isKeyed = [...bench.parts.values()].some((part) => Object.keys(part.channels).length);
if (await comeBack(bench)) bench.tell("state");
else if (isKeyed) await bench.setMotion(true);
else bench.tell("state");
const wanted = new URLSearchParams(location.hash.slice(1)).get("pick");
if (wanted && bench.parts.has(wanted)) bench.pick([wanted]);
const notes = sessionStorage.getItem("notes");
if (notes) {
  sessionStorage.removeItem("notes");
  notice(notes);
}
// Ready means drawn: areas put their drawing off to the next frame, and this waits behind them.
requestAnimationFrame(() => {
  root.dataset.ready = "true";
});
