// Dragging in the time panel: the frame that is now along the ruler, keys in time, and a box round keys that are to be picked.

import { readable, svg } from "../../elements/drawing.js";
import { NAMES, RULER } from "../axis.js";

export function makeKeyDrags({ root, bench, play, picture, field, axis }) {
  const { previewer } = bench;
  const tag = root.querySelector("[data-time=tag]");
  let drag = null;

  // Thousands of keys may be picked, so they are looked up by name; a set is made for each list of picked keys.
  const nameOf = (part, channel, frame) => `${part} ${channel} ${Math.round(frame * 1e5)}`;
  const known = { keys: null, names: null };
  function isPickedKey(part, channel, frame) {
    if (known.keys !== bench.pickedKeys)
      Object.assign(known, {
        keys: bench.pickedKeys,
        names: new Set(bench.pickedKeys.map((key) => nameOf(key.part, key.channel, key.frame))),
      });
    return known.names.has(nameOf(part, channel, frame));
  }

  picture.addEventListener("pointerdown", (event) => {
    if (event.button !== 0 || drag) return;
    const box = picture.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    if (y <= RULER || event.target.dataset.ruler !== undefined) {
      picture.setPointerCapture(event.pointerId);
      drag = { isSeek: true };
      play.stop();
      seekTo(x);
    } else if (x > NAMES) {
      picture.setPointerCapture(event.pointerId);
      drag = { box: svg("rect", { class: "fill-lagoon-light stroke-lagoon", "fill-opacity": 0.5, "pointer-events": "none" }), x, y };
      if (!event.shiftKey) bench.pickKeys([]);
    }
  });
  function drawBox(event) {
    const at = picture.getBoundingClientRect();
    const [x, y] = [event.clientX - at.left, event.clientY - at.top];
    const sides = { x: Math.min(x, drag.x), y: Math.min(y, drag.y), width: Math.abs(x - drag.x), height: Math.abs(y - drag.y) };
    for (const [name, value] of Object.entries(sides)) drag.box.setAttribute(name, value);
    picture.append(drag.box);
  }
  /** Pick keys, or as well as those that are picked. */
  function pickKeys(keys, isMore) {
    bench.pickKeys(isMore ? [...bench.pickedKeys, ...keys.filter((key) => !isPickedKey(key.part, key.channel, key.frame))] : keys);
  }
  const seekTo = (x) => bench.seek(axis.frameOf(x));

  function pressKeys(event, keys) {
    event.stopPropagation();
    event.preventDefault();
    play.stop();
    const areAll = keys.every((key) => isPickedKey(key.part, key.channel, key.frame));
    const others = bench.pickedKeys.filter(
      (key) => !keys.some((one) => one.part === key.part && one.channel === key.channel && one.frame === key.frame),
    );
    if (event.shiftKey) return bench.pickKeys(areAll ? others : [...others, ...keys]);
    if (!areAll) bench.pickKeys(keys);
    picture.setPointerCapture(event.pointerId);
    drag = { from: event.clientX, keys: bench.pickedKeys, by: 0 };
  }

  /** Begin to drag a foothold, or with a constraint the frame from which that changes hands. */
  function pressStand(event, part, frame, constraint) {
    event.stopPropagation();
    event.preventDefault();
    play.stop();
    const stand = constraint ? { part, frame, constraint } : { part, frame };
    bench.pickStand(stand);
    picture.setPointerCapture(event.pointerId);
    drag = { from: event.clientX, stand, by: 0 };
  }
  function retimed({ keys, stand, by }) {
    if (!stand) return [{ edit: "move_keys", keys, by }];
    const moved = { ...stand, to: stand.frame + by };
    return [stand.constraint ? { edit: "move_change", ...moved, is_whole: false } : { edit: "move_foothold", ...moved }];
  }

  picture.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (drag.isSeek) return seekTo(event.clientX - picture.getBoundingClientRect().left);
    if (drag.box) return drawBox(event);
    const by = bench.dragged((event.clientX - drag.from) / axis.scale, event);
    if (by === drag.by) return;
    drag.by = by;
    if (by) previewer.ask(retimed(drag));
    else previewer.cancel();
    tag.textContent = by ? `${by > 0 ? "+" : "−"}${readable(Math.abs(by), 2)} frames` : "";
  });
  picture.addEventListener("pointerup", () => {
    if (!drag) return;
    const { keys, stand, by, box } = drag;
    drag = null;
    tag.textContent = "";
    if (box?.isConnected) return pickKeys(keysWithin({ field, picture }, box), true);
    if (!by) return;
    if (stand) return moveStand(stand, by);
    retime(keys, by);
  });
  /** Moves keys in time; they stay picked where they come to stand. */
  async function retime(keys, by) {
    bench.pickedKeys = [];
    if (await previewer.keep([{ edit: "move_keys", keys, by }])) bench.pickKeys(keys.map((key) => ({ ...key, frame: key.frame + by })));
  }
  async function moveStand(stand, by) {
    bench.pickedStand = null;
    if (await previewer.keep(retimed({ stand, by }))) bench.pickStand({ ...stand, frame: stand.frame + by });
  }
  picture.addEventListener("pointercancel", () => cancel());
  function cancel() {
    if (!drag) return false;
    drag.box?.remove();
    drag = null;
    previewer.cancel();
    tag.textContent = "";
    return true;
  }

  return { isPickedKey, pressKeys, pressStand, pickKeys, retime, cancel };
}

/** The keys of which signs in the field are within a box that was drawn; it is taken away. */
function keysWithin({ field, picture }, box) {
  const around = box.getBoundingClientRect();
  box.remove();
  const isInside = (at) => at.left <= around.right && at.right >= around.left && at.top <= around.bottom && at.bottom >= around.top;
  const found = [...field.querySelectorAll("*")].filter(
    (element) => (element.keys || element.keysBetween) && isInside(element.getBoundingClientRect()),
  );
  const { left } = picture.getBoundingClientRect();
  return found.flatMap((element) => element.keys ?? element.keysBetween(around.left - left, around.right - left));
}
