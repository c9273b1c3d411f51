// Presses on the field of the time panel: the ruler seeks, elsewhere a box is drawn round keys that are to be picked.

import { svg } from "../../elements/drawing.js";
import { following } from "../../elements/following.js";
import { NAMES, RULER } from "../axis.js";

/** @param {Shared} shared */
export function makeKeyPicking({ bench, play, picture, field, axis }) {
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

  /** Pick keys, or as well as those that are picked. */
  function pickKeys(keys, isMore) {
    bench.pickKeys(isMore ? [...bench.pickedKeys, ...keys.filter((key) => !isPickedKey(key.part, key.channel, key.frame))] : keys);
  }

  const seekTo = (x) => bench.seek(axis.frameOf(x));

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

  return { isPickedKey, pickKeys };
}

/** The keys of which signs in the field are within a box that was drawn. */
function keysWithin({ field, picture }, box) {
  const around = box.getBoundingClientRect();
  const isInside = (at) => at.left <= around.right && at.right >= around.left && at.top <= around.bottom && at.bottom >= around.top;
  const result = [...field.querySelectorAll("*")].filter(
    (element) => (element.keys || element.keysBetween) && isInside(element.getBoundingClientRect()),
  );
  const { left } = picture.getBoundingClientRect();
  return result.flatMap((element) => element.keys ?? element.keysBetween(around.left - left, around.right - left));
}
