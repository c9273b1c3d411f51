// What is done in scenes that have depth: cameras and cuts, boxes and prisms, axes.

import { notice } from "../../notices.js";
import { freshId } from "../state/fresh_id.js";

/** @param {Shared} shared */
export function depthActs({ bench, keep, view, some, frame }) {
  const camera = () => (bench.lead && bench.part(bench.lead).kind === "camera" ? bench.lead : null);
  const cut = (id) => keep("set_cut", { frame: bench.isMotion ? bench.frame : 0, camera: id });
  return {
    /** A camera where the view stands that was pointed at last, else before the stage. */
    async addCamera() {
      const id = freshId();
      if (await keep("add_camera", { id, ...(view.isFromFront ? {} : view.through) })) bench.pick([id]);
    },
    cutToPicked: () => (camera() ? cut(camera()) : notice("Pick the camera first that is to be on from this frame.")),
    cutToOwn: () => cut(null),
    async addBox() {
      const id = freshId();
      const size = Math.round(Math.min(bench.stage.width, bench.stage.height) / 3);
      if (await keep("add_box", { id, size: [size, size, size] })) bench.pick([id]);
    },
    axesToView: some(() => keep("align_axes", { part: bench.lead, to: "view", frame: frame(), ...view.through })),
  };
}
