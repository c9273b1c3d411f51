// Dragging in the time panel: the frame that is now along the ruler, keys in time, and a box round keys that are to be picked.

import { readable, svg } from "../../elements/drawing.js";
import { following, hold } from "../../elements/following.js";
import { NAMES, RULER } from "../axis.js";

/** @param {Shared} shared */
export function makeKeyDrags({ root, bench, play, picture, field, axis }) {
  const { previewer } = bench;
  const tag = root.querySelector("[data-time=tag]");

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
    if (event.button !== 0) return;
    const box = picture.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    if (y <= RULER || event.target.dataset.ruler !== undefined) {
      play.stop();
      seekTo(x);
      following(event, { holder: picture, move: (now) => seekTo(now.clientX - picture.getBoundingClientRect().left) });
    } else if (x > NAMES) {
      if (!event.shiftKey) bench.pickKeys([]);
      pickBoxed(event, x, y);
    }
  });
  /** A box is drawn from a press on; the keys within it are picked as well. */
  function pickBoxed(event, x, y) {
    const box = svg("rect", { class: "fill-lagoon-light stroke-lagoon", "fill-opacity": 0.5, "pointer-events": "none" });
    following(event, {
      holder: picture,
      move(now) {
        const at = picture.getBoundingClientRect();
        const [toX, toY] = [now.clientX - at.left, now.clientY - at.top];
        const sides = { x: Math.min(x, toX), y: Math.min(y, toY), width: Math.abs(x - toX), height: Math.abs(y - toY) };
        for (const [name, value] of Object.entries(sides)) box.setAttribute(name, value);
        picture.append(box);
      },
      done(_, isKept) {
        if (isKept && box.isConnected) pickKeys(keysWithin({ field, picture }, box), true);
        box.remove();
      },
    });
  }
  /** Pick keys, or as well as those that are picked. */
  function pickKeys(keys, isMore) {
    bench.pickKeys(isMore ? [...bench.pickedKeys, ...keys.filter((key) => !isPickedKey(key.part, key.channel, key.frame))] : keys);
  }
  const seekTo = (x) => bench.seek(axis.frameOf(x));

  function pressKeys(event, keys) {
    hold(event);
    play.stop();
    const areAll = keys.every((key) => isPickedKey(key.part, key.channel, key.frame));
    const others = bench.pickedKeys.filter(
      (key) => !keys.some((one) => one.part === key.part && one.channel === key.channel && one.frame === key.frame),
    );
    if (event.shiftKey) return bench.pickKeys(areAll ? others : [...others, ...keys]);
    if (!areAll) bench.pickKeys(keys);
    retiming(event, { keys: bench.pickedKeys });
  }

  /** Begin to drag a foothold, or with a constraint the frame from which that changes hands. */
  function pressStand(event, part, frame, constraint) {
    hold(event);
    play.stop();
    const stand = constraint ? { part, frame, constraint } : { part, frame };
    bench.pickStand(stand);
    retiming(event, { stand });
  }
  /**
   * @param {{ keys?: PickedKey[], stand?: Stand, by: number }} what
   * @returns {Edit[]}
   */
  function retimed({ keys, stand, by }) {
    if (!stand) return [{ edit: "move_keys", keys, by }];
    const { part, frame, constraint } = stand;
    const to = frame + by;
    return [
      constraint ? { edit: "move_change", part, constraint, frame, to, is_whole: false } : { edit: "move_foothold", part, frame, to },
    ];
  }

  /** Keys or a stand follow the pointer in time. */
  function retiming(event, what) {
    let by = 0;
    following(event, {
      holder: picture,
      move(now) {
        const to = bench.dragged((now.clientX - event.clientX) / axis.scale, now);
        if (to === by) return;
        by = to;
        if (by) previewer.ask(retimed({ ...what, by }));
        else previewer.cancel();
        tag.textContent = by ? `${by > 0 ? "+" : "−"}${readable(Math.abs(by), 2)} frames` : "";
      },
      done(_, isKept) {
        tag.textContent = "";
        if (!isKept) return previewer.cancel();
        if (!by) return;
        if (what.stand) return moveStand(what.stand, by);
        retime(what.keys, by);
      },
    });
  }
  /** Moves keys in time; they stay picked where they come to stand. */
  async function retime(keys, by) {
    bench.pickedKeys = [];
    if (await previewer.keep([{ edit: "move_keys", keys, by }])) bench.pickKeys(keys.map((key) => ({ ...key, frame: key.frame + by })));
  }
  async function moveStand(stand, by) {
    bench.pickedStand = null;
    if (await previewer.keep(retimed({ stand, by }))) bench.pickStand({ ...stand, frame: stand.frame + by });
  }

  return { isPickedKey, pressKeys, pressStand, pickKeys, retime };
}

/** The keys of which signs in the field are within a box that was drawn. */
function keysWithin({ field, picture }, box) {
  const around = box.getBoundingClientRect();
  const isInside = (at) => at.left <= around.right && at.right >= around.left && at.top <= around.bottom && at.bottom >= around.top;
  const found = [...field.querySelectorAll("*")].filter(
    (element) => (element.keys || element.keysBetween) && isInside(element.getBoundingClientRect()),
  );
  const { left } = picture.getBoundingClientRect();
  return found.flatMap((element) => element.keys ?? element.keysBetween(around.left - left, around.right - left));
}
