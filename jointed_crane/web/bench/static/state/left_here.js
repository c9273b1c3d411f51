// Where somebody was who comes back from a page about this scene, or loads the bench anew: state, frame and what was picked.

const placeOf = (bench) => `left-bench-${bench.id}`;

/** Whether the page was come to from another page about the scene, or is the same once more. */
function isComeBack(bench) {
  const [how] = /** @type {PerformanceNavigationTiming[]} */ (performance.getEntriesByType("navigation"));
  const from = document.referrer ? new URL(document.referrer).pathname : null;
  return how?.type === "reload" || how?.type === "back_forward" || Boolean(from?.startsWith(`/scenes/${bench.id}/`));
}

/** @param {Bench} bench */
export function rememberWhenLeft(bench) {
  addEventListener("pagehide", () => {
    const { frame, isMotion, picked } = bench;
    sessionStorage.setItem(placeOf(bench), JSON.stringify({ frame, isMotion, picked }));
  });
}

/**
 * Go where one was; whether one came back.
 * @param {Bench} bench
 */
export async function comeBack(bench) {
  const known = sessionStorage.getItem(placeOf(bench));
  if (!known || !isComeBack(bench)) return false;
  const { frame, isMotion, picked } = JSON.parse(known);
  bench.frame = Math.min(frame, bench.stage.length - 1);
  await bench.setMotion(isMotion);
  bench.pick(picked.filter((id) => bench.parts.has(id)));
  return true;
}
