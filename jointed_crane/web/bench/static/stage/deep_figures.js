// Draws the parts as a view in depth sees them: each on a plane of its own that the browser lays where the view's map says.

import { svg } from "../elements/drawing.js";
import { dress, newFigure, ringsPath } from "./figures.js";
import { makeGrid } from "./grid.js";
import { makeGround } from "./ground.js";
import { cssOf, through } from "./view.js";

/**
 * Mounts what one view sees into an element of its own, and the outlines of what is picked into the svg element over it.
 * @param {HTMLElement} root
 * @param {Bench} bench
 * @param {View} view
 */
export function mountDeepFigures(root, over, bench, view) {
  const world = document.createElement("div");
  world.className = "deep-world";
  const floor = makeFloor(root, bench, view);
  world.append(floor.plane, floor.sheet);
  root.append(world);
  const outlines = svg("g", { "pointer-events": "none" });
  over.append(outlines);

  /** By part the planes it is drawn on: one, or one for each piece that another plane cuts it into. */
  const made = new Map();

  function planeOf(part, number) {
    const planes = made.get(part.id) ?? [];
    made.set(part.id, planes);
    if (planes[number]?.drawings !== part.drawings) {
      planes[number]?.plane.remove();
      planes[number] = newPlane(part);
    }
    return planes[number];
  }

  /** Everything in order, `behind` the last that stands right. */
  function draw(painting, mapOf, poseOf, shapeOf) {
    const counts = new Map();
    let behind = floor.sheet;
    for (const [id, clip] of painting) {
      const part = bench.part(id);
      const map = mapOf(id);
      const pose = poseOf(id);
      if (!part?.drawings.length || !map || !pose) continue;
      const number = counts.get(id) ?? 0;
      counts.set(id, number + 1);
      const drawn = planeOf(part, number);
      lay(bench, drawn, { map, clip, pose, part, shape: shapeOf(id), isSeen: bench.isSeen(id) });
      if (behind.nextSibling !== drawn.plane) world.insertBefore(drawn.plane, behind.nextSibling);
      behind = drawn.plane;
    }
    for (const [id, planes] of made) for (const { plane } of planes.splice(counts.get(id) ?? 0)) plane.remove();
  }

  function drawSeen() {
    root.classList.toggle("hidden", !bench.isDeep);
    if (!bench.isDeep || !view.isShown) return outlines.replaceChildren();
    const { sight } = view;
    draw(
      sight.painting,
      (id) => sight.parts[id]?.map,
      (id) => bench.poseOf(id),
      (id) => bench.movingShape(id),
    );
    floor.draw();
    drawOutlines();
  }

  /** One frame of baked motion; `painting` is how it is painted. */
  function drawBaked(ids, at, painting, shapeOf) {
    const rows = new Map(ids.map((id, row) => [id, row]));
    const parts = new Map();
    const partOf = (id) => parts.get(id) ?? parts.set(id, at(rows.get(id))).get(id);
    draw(painting, (id) => partOf(id).map, partOf, shapeOf);
    outlines.replaceChildren();
  }

  const drawOutlines = () => outlineAll(bench, view, outlines);

  view.on(() => {
    const { x, y, k } = view;
    world.style.transform = `scale(${k}) translate(${-x}px, ${-y}px)`;
    outlines.setAttribute("transform", `scale(${k}) translate(${-x} ${-y})`);
    floor.draw();
  });
  bench.on("pose scene seen looks", drawSeen);
  bench.on("picked hovered", drawOutlines);

  return { drawBaked };
}

/**
 * A plane that one part, or a piece of it, is drawn on. What moves is an element of HTML around the drawing: the browser
 * takes a new transform of one more lightly than of an svg element, a third of the work where 200 planes play.
 */
function newPlane(part) {
  const { group, pictures, drawings } = newFigure(part);
  const plane = document.createElement("div");
  plane.className = "deep-plane";
  const sheet = svg("svg", { class: "deep-plane" });
  sheet.append(group);
  plane.append(sheet);
  return { plane, group, pictures, drawings, last: null };
}

/**
 * Lay a plane where it is seen, and dress it; what is as it was needs no touch.
 * @param {Bench} bench
 */
function lay(bench, drawn, now) {
  const { last, plane } = drawn;
  if (last?.map !== now.map) plane.style.transform = cssOf(now.map);
  if (last?.clip !== now.clip) plane.style.clipPath = now.clip ? `polygon(${now.clip.map(([x, y]) => `${x}px ${y}px`).join(",")})` : "none";
  if (!looksAlike(last, now) || last.part !== now.part || last.shape !== now.shape || last.isSeen !== now.isSeen)
    dress(bench, drawn.group, drawn.pictures, now.pose, now.part, now.shape);
  drawn.last = now;
}

/** Whether a part is dressed as it was: a film makes its poses anew for every frame. */
const looksAlike = (last, { pose }) =>
  last?.pose.opacity === pose.opacity && last.pose.shown === pose.shown && last.pose.drawing === pose.drawing;

/**
 * The stage itself as the view sees it, with its edge; of straight views a grid behind it.
 * @param {HTMLElement} root
 * @param {Bench} bench
 * @param {View} view
 */
function makeFloor(root, bench, view) {
  const plane = svg("svg", { class: "deep-plane pointer-events-none" });
  const sheet = svg("svg", { class: "deep-plane pointer-events-none" });
  const mark = `-${view.index}`;
  const { below, mat, definitions, fit } = makeGround(root, bench, mark);
  plane.append(definitions, below[0]);
  sheet.append(below[1]);
  const behind = svg("svg", { class: "pointer-events-none absolute inset-0 size-full" });
  const edge = svg("path", { fill: "none", class: "stroke-mute", "stroke-width": 1.2 });
  const grid = makeGrid(view);
  behind.append(grid.grid, edge);
  root.append(behind);

  function draw() {
    const { sight } = view;
    if (!sight?.map) return;
    // What is sent has its ground all over it, however a camera looks; elsewhere it lies on the plane of the stage.
    const isSent = view.look.side === "stage";
    plane.style.transform = isSent ? "none" : cssOf(sight.map);
    sheet.style.transform = cssOf(sight.map);
    // The mat reaches beyond the stage; seen from aside that would be all there is.
    mat.setAttribute("display", view.isFromFront && sight.map[10] === 0 ? "inline" : "none");
    const corners = sight.stage.map((corner) => view.toScreen(corner));
    edge.setAttribute("display", isSent ? "none" : "inline");
    edge.setAttribute("d", `M${corners.map((corner) => corner.join(" ")).join("L")}Z`);
    grid.draw();
    fit(view.k);
  }
  return { plane, sheet, draw };
}

/**
 * Outlines of what is picked, and of what is pointed at.
 * @param {Bench} bench
 * @param {View} view
 */
function outlineAll(bench, view, outlines) {
  outlines.replaceChildren();
  if (!bench.isDeep) return;
  if (bench.hovered && !bench.picked.includes(bench.hovered)) outline(bench, view, outlines, bench.hovered, 1.2);
  for (const id of bench.picked) outline(bench, view, outlines, id, 2);
}

/**
 * The outline of a part where the view sees it.
 * @param {Bench} bench
 * @param {View} view
 */
function outline(bench, view, outlines, id, width) {
  const drawing = bench.drawingOf(id);
  const map = view.sight.parts[id]?.map;
  if (!drawing || !map || !bench.isSeen(id)) return;
  outlines.append(
    svg("path", {
      d: seenRings(ringsOf(drawing, bench.movingShape(id)), map),
      fill: "none",
      class: "stroke-lagoon",
      "stroke-width": width,
      "stroke-linejoin": "round",
      "vector-effect": "non-scaling-stroke",
    }),
  );
}

/** Into so many pieces the contour of a moving shape is taken apart: a map that is no affine one bends its curves. */
const PIECES = 96;

/** The rings of a drawing in its art, or of its shape where that moves. */
export function ringsOf(drawing, shape) {
  if (!shape) return drawing.outline;
  const [left, top] = drawing.registration;
  return shape.d.split(/(?=M)/).map((contour) => {
    const path = svg("path", { d: contour });
    const length = path.getTotalLength();
    return Array.from({ length: PIECES }, (_, piece) => {
      const { x, y } = path.getPointAtLength((length * piece) / PIECES);
      return [x - left, y - top];
    });
  });
}

/** Rings of the art as a map sees them. */
export const seenRings = (rings, map) => ringsPath(rings.map((ring) => ring.map((point) => through(map, point))));
