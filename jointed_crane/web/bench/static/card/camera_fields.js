// The fields of a camera: its lens or the angle it sees, its near plane, and whether it sees in parallel.

import { mountField } from "../elements/fields.js";

/**
 * Mounts the fields; returns what draws each of them anew.
 * @param {any} root
 * @param {Bench} bench
 */
export function makeCameraFields(root, bench, acts) {
  const find = (name) => root.querySelector(`[data-camera=${name}]`);
  const camera = () => (bench.lead ? bench.part(bench.lead).camera : null);
  const parts = () => bench.picked.filter((id) => bench.part(id).camera);
  const lens = () => (camera() && !camera().parallel ? bench.value(bench.lead, "lens") : null);
  const isKeyed = () => bench.lead && bench.isKeyed(bench.lead, "lens");
  const why = "A parallel camera has no lens; its scale says how much it sees";
  const parallel = find("parallel");
  parallel.addEventListener("change", () => bench.keep([{ edit: "set_camera", part: bench.lead, parallel: parallel.checked }]));
  find("cut").addEventListener("click", () => acts.cutToPicked());
  return [
    mountField(
      find("lens"),
      {
        read: lens,
        edits: (value, isPast) => [{ edit: "set_values", parts: parts(), values: { lens: value }, frame: bench.at, past_limits: isPast }],
        neutral: 50,
        step: 1,
        digits: 1,
        isKeyed,
        why,
      },
      bench.previewer,
    ),
    mountField(
      find("angle"),
      {
        read: () => (lens() === null || bench.rings?.part !== bench.lead ? null : bench.rings.angle),
        edits: (degrees) => [{ edit: "set_lens_angle", parts: parts(), degrees, frame: bench.at }],
        step: 1,
        digits: 1,
        isKeyed,
        why,
      },
      bench.previewer,
    ),
    mountField(
      find("near"),
      {
        read: () => camera()?.near ?? null,
        edits: (near) => [{ edit: "set_camera", part: bench.lead, near }],
        neutral: 1,
        step: 1,
        digits: 1,
      },
      bench.previewer,
    ),
    () => {
      root.querySelector("[data-card=camera]").hidden = !camera();
      if (camera()) parallel.checked = camera().parallel;
    },
  ];
}
