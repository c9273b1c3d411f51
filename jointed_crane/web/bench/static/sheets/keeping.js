// The sheets of what a scene keeps by name: markers and spans in time, and poses.

import { notice, saying } from "../../notices.js";
import { sendOut } from "../../sending.js";
import { allow, arithmetic } from "../elements/fields.js";
import { freshId } from "../state/fresh_id.js";
import { mountPreviewed } from "./previewed.js";

/**
 * Names a frame or a span of frames. Opened with the id of a marker, or with the frames of a new one.
 * @param {Bench} bench
 */
export function mountMarker(dialog, bench) {
  const { name, frame, until } = dialog.querySelector("form").elements;
  const find = (what) => dialog.querySelector(`[data-marker=${what}]`);
  let known = null;
  let fresh = null;

  const frames = () => ({ frame: arithmetic(frame.value) ?? 0, until: until.value.trim() ? (arithmetic(until.value) ?? 0) : null });
  const { open } = mountPreviewed(dialog, bench, {
    edits() {
      const { frame: from, until: to } = frames();
      find("send").hidden = to === null || fresh !== null;
      const words = name.value.trim() || (to === null ? "Marker" : "Span");
      return [
        fresh
          ? { edit: "add_marker", id: fresh, frame: from, until: to, name: words }
          : { edit: "set_marker", marker: known.id, frame: from, until: to, name: words },
      ];
    },
    lines: () => [],
  });
  dialog.addEventListener("close", () => fresh && bench.stage.markers.some(({ id }) => id === fresh) && bench.pickMarker(fresh));
  find("send").addEventListener("click", () => {
    const { frame: from, until: to } = frames();
    return saying(() => sendOut(`${bench.path}/send/svg?from=${Math.round(from)}&to=${Math.round(to ?? from)}`, "Sending the span out"));
  });
  find("delete").addEventListener("click", async () => {
    if (await bench.keep([{ edit: "delete_marker", marker: known.id }])) dialog.close();
  });

  return async (wanted) => {
    await bench.setMotion(true);
    known = typeof wanted === "string" ? bench.stage.markers.find(({ id }) => id === wanted) : { name: "", ...wanted };
    fresh = known.id ? null : freshId();
    find("delete").hidden = Boolean(fresh);
    name.value = known.name;
    name.placeholder = known.until === null ? "Marker" : "Span";
    frame.value = known.frame;
    until.value = known.until ?? "";
    const opened = open();
    name.select();
    return opened;
  };
}

/**
 * Poses kept by name: shown, put on the picked parts whole, by a share or mirrored, renamed, thrown away.
 * @param {Bench} bench
 */
export function mountPoses(dialog, bench) {
  const { slide, share, mirrored, picked, name } = dialog.querySelector("form").elements;
  const find = (what) => dialog.querySelector(`[data-poses=${what}]`);
  let chosen = null;

  const { preview } = mountPreviewed(dialog, bench, {
    edits: () =>
      chosen
        ? [
            {
              edit: "put_pose",
              pose: chosen,
              frame: bench.frame,
              parts: picked.checked ? bench.picked : [],
              share: (arithmetic(share.value) ?? 100) / 100,
              mirrored: mirrored.checked,
            },
          ]
        : [],
    lines: () => [],
  });

  function draw() {
    const { poses } = bench.stage;
    if (!poses.some(({ id }) => id === chosen)) chosen = poses.at(-1)?.id ?? null;
    find("none").hidden = poses.length > 0;
    find("list").replaceChildren(
      ...poses.map((pose) =>
        poseCard(bench, pose, pose.id === chosen, () => {
          chosen = pose.id;
          preview();
        }),
      ),
    );
    for (const what of ["rename", "delete"]) allow(find(what), chosen, "Choose a pose first");
    for (const field of [slide, share, dialog.querySelector("[value=keep]")]) allow(field, chosen, "Choose a pose first");
  }

  /** Keep something while the sheet stays open, then show the poses as they are. */
  async function keep(edit) {
    bench.show(null);
    if (!(await bench.keep([edit]))) return;
    draw();
    await preview();
  }
  find("keep").addEventListener("click", async () => {
    chosen = freshId();
    await keep({ edit: "keep_pose", id: chosen, frame: bench.frame, parts: bench.picked, name: name.value.trim() || "Pose" });
  });
  find("rename").addEventListener("click", () => {
    if (!name.value.trim()) return notice("Write the new name into the field below, then press Rename.");
    return keep({ edit: "rename_pose", pose: chosen, name: name.value });
  });
  find("delete").addEventListener("click", () => keep({ edit: "delete_pose", pose: chosen }));
  name.addEventListener("input", (event) => event.stopPropagation()); // a name that is written shows no pose
  slide.addEventListener("input", () => {
    share.value = slide.value;
  });
  share.addEventListener("input", () => {
    slide.value = arithmetic(share.value) ?? slide.value;
  });

  return async (isNaming = false) => {
    await bench.setMotion(true);
    picked.checked = bench.picked.length > 0;
    allow(picked, bench.picked.length, "No part is picked");
    share.value = slide.value = 100;
    draw();
    // Nothing moves until a pose is chosen or its share is changed.
    dialog.showModal();
    if (isNaming) name.select();
    return null;
  };
}

/**
 * A kept pose to choose: its picture and name.
 * @param {Bench} bench
 */
function poseCard(bench, pose, isChosen, choose) {
  const label = document.createElement("label");
  label.className = "pose-card";
  const choice = document.createElement("input");
  Object.assign(choice, { type: "radio", name: "pose", value: pose.id, checked: isChosen, className: "sr-only" });
  choice.addEventListener("change", choose);
  const picture = new Image();
  picture.src = `/scenes/${bench.id}/poses/${pose.id}.svg?version=${bench.version}`;
  picture.alt = "";
  const words = document.createElement("span");
  words.className = "truncate";
  words.textContent = pose.name;
  const parts = Object.keys(pose.values);
  label.title = `${pose.name}: ${parts.length === 1 ? parts[0] : `${parts.length} parts`}`;
  label.append(choice, picture, words);
  return label;
}
