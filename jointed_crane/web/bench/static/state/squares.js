// The squares of the cutting mat.

import { facts } from "./facts.js";

/** How far the lines of the mat lie apart at a zoom, px on the stage: a square, five times that, a fifth; on the screen 16 to 80 px. */
export const squareAt = (zoom) => facts.square * 5 ** Math.ceil(Math.log(16 / (facts.square * zoom)) / Math.log(5));
