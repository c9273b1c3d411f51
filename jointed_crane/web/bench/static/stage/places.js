// Where parts and their pivots are on the screen, and whether they are seen there.

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makePlaces(bench, view) {
  const screen = (id, point) => view.toScreen(bench.onStage(id, point));
  const pivotOf = (id) => view.toScreen(bench.poseOf(id).pivot);
  const isSeen = (id) => bench.poseOf(id) && bench.isSeen(id);
  return { screen, pivotOf, isSeen };
}
