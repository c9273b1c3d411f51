// What parts lie on: the stage with its ground, the cutting mat in Rest, plain paper or chequers in Motion.

import { svg } from "../elements/drawing.js";
import { squareAt } from "../state/squares.js";

/**
 * `mark` tells the patterns of one pane from those of others. The ground and the squares of the mat below all parts, the veil above what lies outside, the patterns that both use, and what fits the mat to a zoom.
 * @param {Bench} bench
 */
export function makeGround(root, bench, mark = "") {
  const ground = svg("rect", { x: 0, y: 0, class: "drop-shadow" });
  const outside = svg("path", { class: "fill-mat", "fill-opacity": 0.72, "fill-rule": "evenodd", "pointer-events": "none" });
  const pattern = squaresPattern(`squares${mark}`);
  const squares = svg("g", { "pointer-events": "none" }, pattern);
  const mat = svg("path", { fill: `url(#squares${mark})`, "fill-rule": "evenodd" }); // seen through what veils the outside
  const onStage = svg("rect", { fill: `url(#squares${mark})`, "fill-opacity": 0.2 });
  squares.append(mat, onStage);

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
    ground.setAttribute("fill", bench.isChequered || isBare ? `url(#chequers${mark})` : bench.stage.ground);
    squares.setAttribute("display", bench.isMotion ? "none" : "inline");
    mat.setAttribute("d", aroundStage(width, height));
    onStage.setAttribute("width", width);
    onStage.setAttribute("height", height);
  }

  const draw = () => {
    drawStage();
    drawSquares();
  };
  if (bench.stage) draw();
  bench.on("scene", draw);
  bench.on("state", () => bench.stage && drawSquares());
  return {
    below: [ground, squares],
    mat,
    above: [outside],
    definitions: chequersPattern(`chequers${mark}`),
    fit: (zoom) => fitSquares(pattern, zoom),
  };
}

/** A ground of grey squares to judge transparency on. */
function chequersPattern(id) {
  const pattern = svg("pattern", { id, width: 32, height: 32, patternUnits: "userSpaceOnUse" });
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
export function squaresPattern(id) {
  const lines = svg("pattern", { id, x: -20, y: -20, width: 200, height: 200, patternUnits: "userSpaceOnUse" });
  for (let at = 0; at < 200; at += 40) lines.append(svg("path", { d: `M${at} -40V200M-40 ${at}H200`, class: "stroke-lagoon" }));
  return lines;
}

/** Lines of the mat as wide on the screen at any zoom. */
export function fitSquares(pattern, zoom) {
  const scale = squareAt(zoom) / 40;
  pattern.setAttribute("patternTransform", `scale(${scale})`);
  for (const [index, line] of [...pattern.children].entries()) line.setAttribute("stroke-width", (index ? 0.6 : 1.5) / (zoom * scale));
}
