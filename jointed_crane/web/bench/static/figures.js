// Draws the parts on the stage, each where its matrix says, and the stage around them.

import { artImage, svg } from "./drawing.js";

/**
 * Mounts the world into one svg element and the outlines of what is picked into another that lies over it: the browser
 * keeps each as a layer of its own, so that a pick does not paint hundreds of pictures anew.
 */
export function mountFigures(root, under, over, bench, view) {
  const world = svg("g");
  const ground = svg("rect", { x: 0, y: 0, class: "drop-shadow" });
  const figures = svg("g");
  const outside = svg("path", { class: "fill-mat", "fill-opacity": 0.82, "fill-rule": "evenodd", "pointer-events": "none" });
  const pattern = squaresPattern();
  const squares = svg("g", { "pointer-events": "none" }, pattern);
  under.append(chequersPattern());
  const mat = svg("path", { fill: "url(#squares)", "fill-opacity": 0.55, "fill-rule": "evenodd" });
  const overStage = svg("rect", { fill: "url(#squares)", "fill-opacity": 0.16 });
  squares.append(mat, overStage);
  const outlines = svg("g", { "pointer-events": "none" });
  world.append(ground, figures, outside, squares);
  under.append(world);
  over.append(outlines);

  const made = new Map();
  function figureOf(part) {
    const known = made.get(part.id);
    if (known?.drawings === part.drawings) return known;
    known?.group.remove();
    const group = svg("g", { "data-part": part.id });
    const pictures = part.drawings.map((drawing) => {
      const pick = svg("path", { d: ringsPath(drawing.outline), fill: "none", "fill-rule": "evenodd", "pointer-events": "all", "data-pick": part.id });
      const both = svg("g");
      both.append(artImage(drawing), pick);
      group.append(both);
      return both;
    });
    const figure = { group, pictures, drawings: part.drawings };
    made.set(part.id, figure);
    return figure;
  }

  function drawPose() {
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
      if (figure.pose !== pose || figure.part !== part || figure.isSeen !== isSeen) {
        place(group, figure.pictures, pose, part);
        Object.assign(figure, { pose, part, isSeen });
      }
      if (behind ? behind.nextSibling !== group : figures.firstChild !== group) figures.insertBefore(group, behind ? behind.nextSibling : figures.firstChild);
      behind = group;
    }
    for (const [id, figure] of made) {
      if (bench.part(id)) continue;
      figure.group.remove();
      made.delete(id);
    }
    drawOutlines();
  }

  function place(group, pictures, pose, part) {
    group.setAttribute("transform", `matrix(${pose.matrix.join(" ")})`);
    group.setAttribute("opacity", pose.opacity);
    const isSeen = bench.isSeen(part.id);
    group.setAttribute("visibility", pose.shown && isSeen ? "visible" : "hidden");
    group.setAttribute("pointer-events", part.locked || !isSeen ? "none" : "auto");
    pictures.forEach((picture, index) => picture.setAttribute("display", index === pose.drawing ? "inline" : "none"));
  }

  /** One frame of baked motion, straight onto the elements; `painting` is given where the order has changed. */
  function drawBaked(ids, at, painting) {
    for (const id of painting ?? []) if (made.has(id)) figures.append(made.get(id).group);
    for (const [row, id] of ids.entries()) {
      const figure = made.get(id);
      if (figure) figure.pose = null;
      if (figure) place(figure.group, figure.pictures, at(row), bench.part(id));
    }
    outlines.replaceChildren();
  }

  function drawOutlines() {
    outlines.replaceChildren();
    if (bench.hovered && !bench.picked.includes(bench.hovered)) outline(bench.hovered, 1.2);
    for (const id of bench.picked) outline(id, 2);
  }

  function outline(id, width) {
    const drawing = bench.drawingOf(id);
    const pose = bench.poseOf(id);
    if (!drawing || !pose || !bench.isSeen(id)) return;
    outlines.append(
      svg("path", {
        d: ringsPath(drawing.outline),
        transform: `matrix(${pose.matrix.join(" ")})`,
        fill: "none",
        class: "stroke-lagoon",
        "stroke-width": width,
        "stroke-linejoin": "round",
        "vector-effect": "non-scaling-stroke",
      }),
    );
  }

  function drawStage() {
    const { width, height } = bench.stage;
    ground.setAttribute("width", width);
    ground.setAttribute("height", height);
    outside.setAttribute("d", aroundStage(width, height));
  }

  /** In Rest the stage lies on a squared cutting mat; in motion on plain paper, or on chequers where it has no ground. */
  function drawSquares() {
    const { width, height } = bench.stage;
    root.classList.toggle("on-mat", !bench.isMotion);
    const isBare = bench.stage.ground === "none" && bench.isMotion;
    ground.setAttribute("fill", bench.isChequered || isBare ? "url(#chequers)" : bench.stage.ground);
    squares.setAttribute("display", bench.isMotion ? "none" : "inline");
    mat.setAttribute("d", aroundStage(width, height));
    overStage.setAttribute("width", width);
    overStage.setAttribute("height", height);
  }

  view.on(() => {
    fitSquares(pattern, view.k);
    for (const layer of [world, outlines]) layer.setAttribute("transform", `scale(${view.k}) translate(${-view.x} ${-view.y})`);
  });
  bench.on("scene", () => {
    drawStage();
    drawSquares();
  });
  bench.on("state", () => bench.stage && drawSquares());
  bench.on("pose scene", drawPose);
  bench.on("picked hovered", drawOutlines);

  return { drawBaked };
}

/** A ground of grey squares to judge transparency on. */
function chequersPattern() {
  const pattern = svg("pattern", { id: "chequers", width: 32, height: 32, patternUnits: "userSpaceOnUse" });
  pattern.append(svg("rect", { width: 32, height: 32, fill: "#fbfaf6" }), svg("path", { d: "M0 0H16V32H32V16H0Z", fill: "#d9d6cd" }));
  const definitions = svg("defs");
  definitions.append(pattern);
  return definitions;
}

function aroundStage(width, height) {
  const far = 20000;
  return `M${-far} ${-far}H${far}V${far}H${-far}ZM0 0V${height}H${width}V0Z`;
}

/** Squares, every fifth line stronger, 40 px apart before `fitSquares` chooses; lines lie inside the tile, whose edge would halve them. */
function squaresPattern() {
  const lines = svg("pattern", { id: "squares", x: -20, y: -20, width: 200, height: 200, patternUnits: "userSpaceOnUse" });
  for (let at = 0; at < 200; at += 40) lines.append(svg("path", { d: `M${at} -40V200M-40 ${at}H200`, class: "stroke-lagoon" }));
  return lines;
}

/** Lines of the mat as wide on the screen at any zoom, 16 to 80 px of it apart: 40 px of the stage, five times that, a fifth. */
function fitSquares(pattern, zoom) {
  const scale = 5 ** Math.ceil(Math.log(16 / (40 * zoom)) / Math.log(5));
  pattern.setAttribute("patternTransform", `scale(${scale})`);
  for (const [index, line] of [...pattern.children].entries()) line.setAttribute("stroke-width", (index ? 0.6 : 1.5) / (zoom * scale));
}

export function ringsPath(rings) {
  return rings.map((ring) => `M${ring.map((point) => point.join(" ")).join("L")}Z`).join("");
}
