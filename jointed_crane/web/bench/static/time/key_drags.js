// Dragging in the time panel: the frame that is now along the ruler, and keys in time.

import { Previewer } from "../previewing.js";
import { NAMES, RULER } from "./axis.js";

export function makeKeyDrags(root, bench, play, picture, axis) {
  const previewer = new Previewer(bench);
  const tag = root.querySelector("[data-time=tag]");
  let drag = null;

  const isPickedKey = (part, channel, frame) => bench.pickedKeys.some((key) => key.part === part && key.channel === channel && Math.abs(key.frame - frame) < 1e-6);

  picture.addEventListener("pointerdown", (event) => {
    if (event.button !== 0 || drag) return;
    const box = picture.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    if (y <= RULER || event.target.dataset.ruler !== undefined) {
      picture.setPointerCapture(event.pointerId);
      drag = { isSeek: true };
      play.stop();
      seekTo(x);
    } else if (x > NAMES && !event.shiftKey) bench.pickKeys([]);
  });
  const seekTo = (x) => bench.seek(axis.frameOf(x));

  function pressKeys(event, keys) {
    event.stopPropagation();
    event.preventDefault();
    play.stop();
    const areAll = keys.every((key) => isPickedKey(key.part, key.channel, key.frame));
    const others = bench.pickedKeys.filter((key) => !keys.some((one) => one.part === key.part && one.channel === key.channel && one.frame === key.frame));
    if (event.shiftKey) return bench.pickKeys(areAll ? others : [...others, ...keys]);
    if (!areAll) bench.pickKeys(keys);
    picture.setPointerCapture(event.pointerId);
    drag = { from: event.clientX, keys: bench.pickedKeys, by: 0 };
  }

  picture.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (drag.isSeek) return seekTo(event.clientX - picture.getBoundingClientRect().left);
    const by = Math.round((event.clientX - drag.from) / axis.scale);
    if (by === drag.by) return;
    drag.by = by;
    if (by) previewer.ask([{ edit: "move_keys", keys: drag.keys, by }]);
    else previewer.cancel();
    tag.textContent = by ? `${by > 0 ? "+" : "−"}${Math.abs(by)} frames` : "";
  });
  picture.addEventListener("pointerup", () => {
    if (!drag) return;
    const { keys, by, isSeek } = drag;
    drag = null;
    tag.textContent = "";
    if (isSeek || !by) return;
    retime(keys, by);
  });
  /** Moves keys in time; they stay picked where they come to stand. */
  async function retime(keys, by) {
    bench.pickedKeys = [];
    if (await previewer.keep([{ edit: "move_keys", keys, by }])) bench.pickKeys(keys.map((key) => ({ ...key, frame: key.frame + by })));
  }
  picture.addEventListener("pointercancel", () => cancel());
  function cancel() {
    if (!drag) return false;
    drag = null;
    previewer.cancel();
    tag.textContent = "";
    return true;
  }

  return { isPickedKey, pressKeys, retime, cancel };
}
