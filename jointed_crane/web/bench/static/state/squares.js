// The squares of the cutting mat.

/** How far the lines of the mat lie apart at a zoom, px on the stage: 40, five times that, a fifth; on the screen 16 to 80 px. */
export const squareAt = (zoom) => 40 * 5 ** Math.ceil(Math.log(16 / (40 * zoom)) / Math.log(5));
