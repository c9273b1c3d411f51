// Dragging in the time panel: keys, footholds and changes of hands in time.

import { readable } from "../../elements/drawing.js";
import { following, hold } from "../../elements/following.js";
import { makeKeyPicking } from "./key_picking.js";

/** @param {Shared} shared */
export function makeKeyDrags({ root, bench, play, picture, field, axis }) {
  const { isPickedKey, pickKeys } = makeKeyPicking({ bench, play, picture, field, axis });
  const { previewer } = bench;
  const tag = root.querySelector("[data-time=tag]");

  function pressKeys(event, keys) {
    if (event.button) return; // the other button opens their easing
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

  /**
   * Begin to drag a foothold, or with a constraint the frame from which that changes hands; among picked keys it goes with
   * them.
   */
  function pressStand(event, own, constraint) {
    const { part, channel, frame } = own;
    if (event.shiftKey || isPickedKey(part, channel, frame)) return pressKeys(event, [own]);
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
