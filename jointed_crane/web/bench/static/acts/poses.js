// The rest, and poses that are copied.

import { facts } from "../state/facts.js";
import { notice } from "../../notices.js";
import { clip, putClip } from "../commands/clip.js";

const POSE_CLIP = "pose-copied";

/** @param {Shared} shared */
export function poseActs({ bench, keep, frame, picked, some }) {
  const isPosed = ({ is_posed: isAlways, is_posed_deep: isDeep }) => isAlways || (isDeep && bench.isDeep);
  const posed = () => Object.keys(facts.channels).filter((name) => isPosed(facts.channels[name]));

  function settle(parts) {
    if (!bench.isMotion) return notice("Everything lies at rest already. Go to a frame in Motion, then settle it.");
    return keep("settle", { parts, frame: bench.frame });
  }

  return {
    settle: some(() => settle(picked())),
    settleAll: () => settle([]),
    reset: some(() => keep("reset", { parts: picked(), frame: frame() })),
    resetAll: () => keep("reset", { frame: frame() }),
    copyPose: some(() => {
      const pose = {};
      for (const id of picked()) pose[bench.part(id).name] = Object.fromEntries(posed().map((name) => [name, bench.value(id, name)]));
      putClip(POSE_CLIP, pose);
      notice(`The pose of ${Object.keys(pose).length === 1 ? Object.keys(pose)[0] : `${Object.keys(pose).length} parts`} is copied.`);
    }),
    pastePose: (mirrored = false) => {
      const pose = clip(POSE_CLIP) ?? {};
      if (!Object.keys(pose).length) return notice("No pose was copied yet. Pick parts and copy their pose first.");
      const fits = Object.keys(pose).length === 1 && !mirrored;
      return keep("paste_pose", { pose, mirrored, parts: fits ? picked() : [], frame: frame() });
    },
  };
}
