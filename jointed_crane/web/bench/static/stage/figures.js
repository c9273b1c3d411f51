// Draws the parts on the stage, each where its matrix says, and the stage around them.

import { artImage, svg } from "../elements/drawing.js";
import { makeGround } from "./ground.js";

/**
 * Mounts the world into one svg element and the outlines of what is picked into another that lies over it: the browser
 * keeps each as a layer of its own, so that a pick does not paint hundreds of pictures anew.
 * @param {Bench} bench
 * @param {View} view
 */
export function mountFigures(root, under, over, bench, view) {
  const world = svg("g");
  const figures = svg("g");
  const { below, above, definitions, fit } = makeGround(root, bench);
  const outlines = svg("g", { "pointer-events": "none" });
  world.append(...below, figures, ...above);
  under.append(definitions, world);
  over.append(outlines);

  const made = new Map();
  function figureOf(part) {
    const known = made.get(part.id);
    if (known?.drawings === part.drawings) return known;
    known?.group.remove();
    const figure = newFigure(part);
    made.set(part.id, figure);
    return figure;
  }

  function drawPose() {
    under.style.display = bench.isDeep ? "none" : "";
    if (bench.isDeep) return clear(made, outlines); // views draw it
    const painting = bench.over?.pose.painting ?? bench.pose.painting;
    let behind = null;
    for (const id of painting) {
      const part = bench.part(id);
      const pose = bench.poseOf(id);
      if (!part || !pose) continue;
      const figure = figureOf(part);
      const { group } = figure;
      // The server's answers share what did not change, so most parts of a preview need no touch.
      const isSeen = bench.isSeen(id);
      const shape = bench.movingShape(id);
      if (figure.pose !== pose || figure.part !== part || figure.isSeen !== isSeen || figure.shape !== shape) {
        place(bench, group, figure.pictures, pose, part, shape);
        Object.assign(figure, { pose, part, isSeen, shape });
      }
      if (behind ? behind.nextSibling !== group : figures.firstChild !== group)
        figures.insertBefore(group, behind ? behind.nextSibling : figures.firstChild);
      behind = group;
    }
    for (const [id, figure] of made) {
      if (bench.part(id)) continue;
      figure.group.remove();
      made.delete(id);
    }
    drawOutlines();
  }

  /** One frame of baked motion, straight onto the elements; `painting` is given where the order has changed. */
  function drawBaked(ids, at, painting, shapeOf) {
    for (const id of painting ?? []) if (made.has(id)) figures.append(made.get(id).group);
    for (const [row, id] of ids.entries()) {
      const figure = made.get(id);
      if (figure) figure.pose = null;
      if (figure) place(bench, figure.group, figure.pictures, at(row), bench.part(id), shapeOf(id));
    }
    outlines.replaceChildren();
  }

  function drawOutlines() {
    outlines.replaceChildren();
    if (bench.isDeep) return;
    if (bench.hovered && !bench.picked.includes(bench.hovered)) outline(bench, outlines, bench.hovered, 1.2);
    for (const id of bench.picked) outline(bench, outlines, id, 2);
  }

  view.on(() => {
    fit(view.k);
    for (const layer of [world, outlines]) layer.setAttribute("transform", `scale(${view.k}) translate(${-view.x} ${-view.y})`);
  });
  bench.on("pose scene", drawPose);
  bench.on("picked hovered", drawOutlines);

  return { drawBaked };
}

function clear(made, outlines) {
  for (const { group } of made.values()) group.remove();
  made.clear();
  outlines.replaceChildren();
}

/** The elements of a part: for each drawing its picture, its own shape while that moves, and what a click hits. */
export function newFigure(part) {
  const group = svg("g", { "data-part": part.id });
  const pictures = part.drawings.map((drawing) => {
    const own = svg("path", {
      display: "none",
      "stroke-linejoin": "round",
      "stroke-linecap": "round",
      "pointer-events": "none",
      transform: `translate(${-drawing.registration[0]} ${-drawing.registration[1]})`,
    });
    const pick = svg("path", {
      d: ringsPath(drawing.outline),
      fill: "none",
      "fill-rule": "evenodd",
      "data-pick": part.id,
    });
    const both = svg("g");
    const image = artImage(drawing);
    both.append(image, own, pick);
    group.append(both);
    return { both, image, own, pick };
  });
  return { group, pictures, drawings: part.drawings };
}

/**
 * The outline of a part where it is shown.
 * @param {Bench} bench
 */
function outline(bench, outlines, id, width) {
  const drawing = bench.drawingOf(id);
  const pose = bench.poseOf(id);
  if (!drawing || !pose || !bench.isSeen(id)) return;
  const own = bench.movingShape(id);
  const back = own ? ` translate(${-drawing.registration[0]} ${-drawing.registration[1]})` : "";
  outlines.append(
    svg("path", {
      d: own ? own.d : ringsPath(drawing.outline),
      transform: `matrix(${pose.matrix.join(" ")})${back}`,
      fill: "none",
      class: "stroke-lagoon",
      "stroke-width": width,
      "stroke-linejoin": "round",
      "vector-effect": "non-scaling-stroke",
    }),
  );
}

export function ringsPath(rings) {
  return rings.map((ring) => `M${ring.map((point) => point.join(" ")).join("L")}Z`).join("");
}

/**
 * Lay the pictures of a part where its pose has them.
 * @param {Bench} bench
 */
function place(bench, group, pictures, pose, part, shape) {
  group.setAttribute("transform", `matrix(${pose.matrix.join(" ")})`);
  dress(bench, group, pictures, pose, part, shape);
}

/**
 * Show of a part what its pose says: how opaque, whether at all, and which drawing.
 * @param {Bench} bench
 */
export function dress(bench, group, pictures, pose, part, shape) {
  group.setAttribute("opacity", pose.opacity);
  const isSeen = bench.isSeen(part.id);
  group.setAttribute("visibility", pose.shown && isSeen ? "visible" : "hidden");
  // The word stands on the shape itself: "all" there would be hit whatever its group says, and hidden too.
  const isHit = pose.shown && isSeen && !part.locked;
  pictures.forEach(({ both, image, own, pick }, index) => {
    pick.setAttribute("pointer-events", isHit ? "all" : "none");
    both.setAttribute("display", index === pose.drawing ? "inline" : "none");
    const isMoving = Boolean(shape) && index === pose.drawing;
    image.setAttribute("display", isMoving ? "none" : "inline");
    own.setAttribute("display", isMoving ? "inline" : "none");
    if (isMoving)
      for (const [name, value] of [
        ["d", shape.d],
        ["fill", shape.fill],
        ["stroke", shape.stroke],
        ["stroke-width", shape.width],
      ])
        own.setAttribute(name, value);
  });
}
