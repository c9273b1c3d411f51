// The panes of the stage: one without depth; with it one, two or four, each with a view, a sign that goes round, and its own pan and zoom.

import { notice } from "../../notices.js";
import { svg } from "../elements/drawing.js";
import { following } from "../elements/following.js";
import { SIDES } from "../state/looks.js";

/** What views are called. */
export const LOOKS = {
  stage: "Stage’s own",
  front: "Front",
  back: "Back",
  top: "Top",
  below: "Below",
  left: "Left",
  right: "Right",
  free: "Free",
};
const BALL = 17;

/**
 * Mounts panes as they are needed; `mountPane(root, index)` puts what is drawn into one and gives its view.
 * @param {HTMLElement} holder
 * @param {Bench} bench
 * @param {(root: HTMLElement, index: number) => Pane} mountPane
 */
export function mountPanes(holder, bench, mountPane) {
  const template = holder.querySelector("template");
  /** @type {Pane[]} */
  const panes = [];

  function paneAt(index) {
    if (panes[index]) return panes[index];
    let root = holder.querySelector(`[data-pane="${index}"]`);
    if (!root) {
      root = template.content.firstElementChild.cloneNode(true);
      root.dataset.pane = index;
      holder.append(root);
    }
    const pane = mountPane(root.querySelector("[data-stage]"), index);
    panes[index] = pane;
    mountBar(root, bench, pane.view);
    keepLooks(bench, pane.view);
    return pane;
  }

  function arrange() {
    const count = bench.isDeep ? bench.count : 1;
    for (let index = 0; index < count; index += 1) paneAt(index);
    holder.dataset.count = String(count);
    for (const [index, pane] of panes.entries()) {
      const root = /** @type {HTMLElement} */ (pane.view.element.closest("[data-pane]"));
      root.hidden = index >= count;
      root.classList.toggle("is-active", count > 1 && bench.active === index);
    }
  }
  paneAt(0);
  bench.on("looks scene", () => bench.stage && arrange());
  const shown = () => panes.filter(({ view }) => view.isShown);
  return { first: panes[0], shown, active: () => panes[bench.isDeep ? bench.active : 0] ?? panes[0] };
}

/**
 * Each way of looking keeps its pan and zoom; a new one is fitted when it is first seen.
 * @param {Bench} bench
 * @param {View} view
 */
function keepLooks(bench, view) {
  const known = new Map();
  let now = "";
  let isWaiting = true;
  const follow = () => {
    if (!bench.stage) return;
    const next = bench.isDeep ? view.look.side : "";
    if (next === now) return;
    known.set(now, { x: view.x, y: view.y, k: view.k, isFitted: view.isFitted });
    now = next;
    const before = known.get(next);
    if (before) Object.assign(view, before);
    isWaiting = !before || before.isFitted;
    if (!bench.isDeep && isWaiting) view.fit();
    view.redraw();
  };
  follow();
  bench.on("looks scene", follow);
  bench.on("seen", () => {
    if (!isWaiting || !view.isShown || !view.sight.map) return;
    isWaiting = false;
    view.fit();
  });
}

/**
 * What a pane says and lets choose of its view.
 * @param {HTMLElement} root
 * @param {Bench} bench
 * @param {View} view
 */
function mountBar(root, bench, view) {
  const find = (name) => root.querySelector(`[data-look=${name}]`);
  const choice = find("side");
  choice.append(...Object.entries(LOOKS).map(([side, words]) => new Option(words, side)));
  choice.addEventListener("change", () => {
    const side = choice.value; // what follows draws the bar anew
    bench.setActive(view.index);
    bench.setLook(view.index, { side });
  });
  choice.addEventListener("keydown", (event) => event.stopPropagation());
  for (const button of root.querySelectorAll("[data-views]"))
    button.addEventListener("click", () => bench.setCount(Number(button.dataset.views)));
  mountBall(find("ball"), bench, view);
  find("moves").addEventListener("click", () => bench.setMovesCamera(!bench.movesCamera));

  function draw() {
    if (!bench.stage) return;
    find("bar").hidden = !bench.isDeep;
    if (!bench.isDeep) return;
    choice.value = view.look.side;
    find("moves").hidden = !bench.cameraOn || view.look.side !== "stage";
    find("moves").setAttribute("aria-pressed", String(bench.movesCamera));
    view.element.setAttribute("aria-label", `Stage, ${LOOKS[view.look.side].toLowerCase()} view`);
    for (const button of root.querySelectorAll("[data-views]"))
      button.setAttribute("aria-pressed", String(Number(button.dataset.views) === bench.count));
  }
  bench.on("looks scene state pose", draw);
  draw();
}

/**
 * The ball in the corner: the three axes as the view sees them; a drag goes round, arrow keys too.
 * @param {Bench} bench
 * @param {View} view
 */
function mountBall(element, bench, view) {
  const turned = (dx, dy) => {
    const isFree = view.look.side === "free";
    const { yaw = 0, pitch = 0 } = isFree ? view.look : SIDES[view.look.side];
    const next = { yaw: yaw - dx, pitch: Math.min(Math.max(pitch + dy, -89.9), 89.9) };
    bench.setActive(view.index);
    bench.setLook(view.index, { side: "free", ...next }, isFree);
  };
  element.addEventListener("pointerdown", (event) => {
    if (event.button !== 0) return;
    event.preventDefault();
    let last = [event.clientX, event.clientY];
    following(event, {
      holder: element,
      move(now) {
        turned((now.clientX - last[0]) * 0.6, (now.clientY - last[1]) * 0.6);
        last = [now.clientX, now.clientY];
      },
    });
  });
  element.addEventListener("keydown", (event) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const step = event.shiftKey ? 15 : 5;
    turned(way[0] * step, way[1] * step);
  });

  function draw() {
    const { sight } = view;
    if (!sight?.map) return;
    const { map } = sight;
    const scale = sight.view.focal ?? sight.view.scale;
    const ends = ["x", "y", "z"].map((name, axis) => ({ name, at: [map[axis], map[4 + axis]].map((value) => (value / scale) * BALL) }));
    element.replaceChildren(
      svg("circle", { r: 26, class: "fill-card stroke-line" }),
      ...ends.flatMap(({ name, at: [x, y] }) => [
        svg("path", { d: `M0 0L${x} ${y}`, class: "stroke-mute", "stroke-width": 1.4 }),
        svg("text", { x: x * 1.25, y: y * 1.25 + 3.5, "text-anchor": "middle", class: "fill-ink text-[10.5px] font-semibold" }, name),
      ]),
    );
  }
  bench.on("seen", draw);
}

/**
 * The commands of looking in depth, by what they are called in the table.
 * @param {Bench} bench
 */
export function lookActs(bench, panes) {
  const needsDepth = (act) => () => (bench.isDeep ? act() : notice("This scene is flat. Turn Depth on in the head first."));
  const look = (side) => needsDepth(() => bench.setLook(bench.active, { side }));
  return {
    depth: () => bench.keep([{ edit: "set_stage", depth: !bench.isDeep }]),
    look,
    back: needsDepth(() => bench.lookBack() || notice("There is no view before this one.")),
    count: (count) => needsDepth(() => bench.setCount(count)),
    moveCamera: needsDepth(() => bench.setMovesCamera(!bench.movesCamera)),
    next: needsDepth(() => bench.setActive((bench.active + 1) % bench.count)),
    /** Frame what is picked, and go round it from now on; where drags move the camera, that is moved. */
    frame() {
      const { view } = panes.active();
      const parts = bench.picked.filter((id) => id !== bench.cameraOn);
      if (parts.length && bench.cameraOn && bench.movesCamera && view.look.side === "stage")
        return bench.keep([{ edit: "frame_parts", camera: bench.cameraOn, parts, frame: bench.at }]);
      const boxes = bench.picked.map((id) => boxSeen(bench, view, id)).filter(Boolean);
      if (!boxes.length) return notice("Pick what is to be framed first.");
      const side = (of, index) => of(...boxes.map((box) => box[index]));
      view.frame([side(Math.min, 0), side(Math.min, 1), side(Math.max, 2), side(Math.max, 3)]);
      if (view.canGoRound && bench.rings) bench.setLook(view.index, { at: bench.rings.place });
    },
  };
}

/**
 * The box that a part is seen in, px of the view.
 * @param {Bench} bench
 * @param {View} view
 */
function boxSeen(bench, view, id) {
  if (!bench.isSeen(id)) return null;
  const bounds = bench.drawingOf(id)?.bounds;
  const [left, top, right, bottom] = bounds ?? [0, 0, 0, 0];
  const corners = [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ];
  const points = bounds ? corners.map((corner) => view.ofPart(id, corner)) : [view.pivot(id)];
  const [xs, ys] = [0, 1].map((axis) => points.map((point) => point[axis]));
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}
