// What a lever may drive: the channels of the picked parts, their shapes and their constraints.

const MOST_NODES = 60; // more would make a list that nobody reads
/** The numbers of each form that move. */
const FORMS = { rectangle: ["left", "top", "right", "bottom", "corner"], ellipse: ["cx", "cy", "rx", "ry"], polygon: ["cx", "cy", "radius", "angle"] };

/** The channels of the picked parts that may be driven. */
export function targets(bench, id) {
  const parts = bench.picked.filter((other) => other !== id && bench.part(other).kind !== "lever");
  return parts.flatMap((part) => {
    const numbers = bench.part(part).constraints.flatMap((one) => bench.numbersOf(one).map((number) => `constraint.${one.id}.${number}`));
    const own = Object.values(bench.channels).filter(({ name, is_deep: isDeep, is_of_shape: isOfShape }) => !isDeep && !isOfShape && !name.startsWith("lever.") && !name.endsWith(".z") || name === "turn.z" || name === "spin.z");
    return [...own.map(({ name }) => name), ...shapeChannels(bench, part), ...numbers].map((onto) => ({ part, onto }));
  });
}

/** The channels of a part's shape that may be driven: its paint, its sides and radii, and the points of its nodes. */
function shapeChannels(bench, part) {
  const shape = bench.drawingOf(part)?.shape;
  if (!shape) return [];
  const { fill, stroke } = shape.paint;
  const paint = [...(fill ? ["r", "g", "b"].map((letter) => `fill.${letter}`) : []), ...(stroke ? ["stroke.r", "stroke.g", "stroke.b", "stroke.width"] : [])];
  const nodes = shape.form === "path" ? shape.contours.flat().slice(0, MOST_NODES).flatMap((_, number) => [`node.${number}.x`, `node.${number}.y`]) : [];
  return [...paint, ...(FORMS[shape.form] ?? []).map((name) => `form.${name}`), ...nodes];
}
