// What fields of a shape read, and what setting them means.

const PLACES = {
  left: ["box", 0],
  top: ["box", 1],
  right: ["box", 2],
  bottom: ["box", 3],
  cx: ["centre", 0],
  cy: ["centre", 1],
  rx: ["radii", 0],
  ry: ["radii", 1],
};

/**
 * The shape of the part picked last as it is shown, and the edits that change it.
 * @param {Bench} bench
 */
export function makeShapeEdits(bench) {
  const shown = () => bench.drawingOf(bench.lead);
  const shape = () => bench.movingShape(bench.lead)?.shape ?? shown()?.shape ?? null;
  /**
   * What does not move, such as words, a form or whether there is a fill: the same at all frames.
   * @returns {Edit[]}
   */
  const setShape = (fields) => [{ edit: "set_shape", part: bench.lead, drawing: shown().id, shape: { ...shown().shape, ...fields } }];
  /**
   * Numbers and colours: at rest the shape itself, in Motion keys at the frame.
   * @returns {Edit[]}
   */
  function moveShape(fields) {
    const edit = { part: bench.lead, drawing: shown().id, shape: { ...shape(), ...fields } };
    return [bench.isMotion ? { edit: "key_shape", ...edit, frame: bench.frame } : { edit: "set_shape", ...edit }];
  }
  const setPaint = (fields) => moveShape({ paint: { ...shape().paint, ...fields } });
  function at(name) {
    const [list, index] = PLACES[name] ?? [];
    return list ? shape()[list]?.[index] : shape()[name];
  }
  function placed(name, value) {
    const [list, index] = PLACES[name] ?? [];
    return list ? { [list]: shape()[list].with(index, value) } : { [name]: name === "corners" ? Math.round(value) : value };
  }
  return { shown, shape, setShape, moveShape, setPaint, at, placed };
}
