// Where parts and their pivots are on the screen, and whether they are seen there.

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makePlaces(bench, view) {
  const screen = (id, point) => view.screen(id, point);
  const pivotOf = (id) => view.toScreen(view.pivot(id));
  const isSeen = (id) => bench.poseOf(id) && bench.isSeen(id) && view.isInSight(id);
  return { screen, pivotOf, isSeen };
}
