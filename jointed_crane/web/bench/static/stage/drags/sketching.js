// What a drag of the drawing tool draws, px on the stage.

/**
 * The shape of a form that a drag between two places draws; an even one is as wide as high.
 * @returns {Shape}
 */
export function shapeBetween(form, [x, y], [toX, toY], isEven, paint) {
  let [width, height] = [toX - x, toY - y];
  if (isEven) {
    const size = Math.max(Math.abs(width), Math.abs(height));
    [width, height] = [Math.sign(width || 1) * size, Math.sign(height || 1) * size];
  }
  const box = [Math.min(x, x + width), Math.min(y, y + height), Math.max(x, x + width), Math.max(y, y + height)];
  const centre = [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2];
  if (form === "rectangle") return { form: "rectangle", box, paint };
  if (form === "ellipse") return { form: "ellipse", centre, radii: [(box[2] - box[0]) / 2, (box[3] - box[1]) / 2], paint };
  return {
    form: "polygon",
    centre: [x, y],
    radius: Math.hypot(width, height),
    angle: (Math.atan2(width, -height) / Math.PI) * 180,
    corners: 5,
    paint,
  };
}

/**
 * The corners of a rectangle's or an ellipse's box.
 * @param {Extract<Shape, { form: "rectangle" | "ellipse" }>} shape
 */
export function boxCorners(shape) {
  const [left, top, right, bottom] =
    shape.form === "rectangle"
      ? shape.box
      : [
          shape.centre[0] - shape.radii[0],
          shape.centre[1] - shape.radii[1],
          shape.centre[0] + shape.radii[0],
          shape.centre[1] + shape.radii[1],
        ];
  return [
    [left, top],
    [right, top],
    [right, bottom],
    [left, bottom],
  ];
}

/**
 * The corners of a polygon.
 * @param {Extract<Shape, { form: "polygon" }>} polygon
 */
export function polygonCorners({ centre, radius, angle, corners: count }) {
  return Array.from({ length: count }, (_, index) => {
    const radians = ((angle - 90 + (360 * index) / count) / 180) * Math.PI;
    return [centre[0] + radius * Math.cos(radians), centre[1] + radius * Math.sin(radians)];
  });
}
