// The keys that are picked, as acts take them.

import { notice } from "../../../notices.js";

/**
 * What runs an act on the keys that are picked, and says so where none is.
 * @param {Bench} bench
 */
export const makeSome =
  (bench) =>
  /** @param {(keys: PickedKey[]) => unknown} act */
  (act) =>
  () =>
    bench.pickedKeys.length ? act(bench.pickedKeys) : notice("No key is picked. Click a key in the time panel first.");

/**
 * Keep an edit of keys, then pick the keys that stand where they came to stand.
 * @param {Bench} bench
 * @param {Edit} edit
 * @param {PickedKey[]} whereTo
 */
export async function keepPicked(bench, edit, whereTo) {
  bench.pickedKeys = [];
  if (!(await bench.keep([edit]))) return;
  const result = whereTo.flatMap(({ part, channel, frame }) => {
    const near = bench.keysOf(part, channel).filter((key) => Math.abs(key.frame - frame) < 0.51);
    near.sort((one, other) => Math.abs(one.frame - frame) - Math.abs(other.frame - frame));
    return near.slice(0, 1).map((key) => ({ part, channel, frame: key.frame }));
  });
  bench.pickKeys(result);
}

/** The first and the last frame of keys. */
export function span(keys) {
  const frames = keys.map((key) => key.frame);
  return [Math.min(...frames), Math.max(...frames)];
}
