// What can be done to picked parts, each as an edit; the table of commands gives them their words and keys.

import { constraintActs } from "./constraints.js";
import { addingActs } from "./adding.js";
import { depthActs } from "./depth.js";
import { copyActs } from "./copies.js";
import { hierarchyActs } from "./hierarchy.js";
import { jointActs } from "./joints.js";
import { makePicked } from "./picked.js";
import { poseActs } from "./poses.js";

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeActs(root, bench, view) {
  const given = { ...makePicked(bench), root, view };
  const acts = {};
  for (const made of [hierarchyActs, jointActs, copyActs, poseActs, addingActs, constraintActs, depthActs])
    Object.assign(acts, made(given, acts));
  return acts;
}
