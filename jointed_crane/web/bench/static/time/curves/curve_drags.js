// Dragging in the curve view: keys in time and value, and handles in angle and length.

import { follow } from "../../elements/following.js";

const TOGETHER = 1e-3;

/** @param {Shared} shared */
export function makeCurveDrags({ bench, picture, axis, scales, isPickedKey, pickKeys, curveOf }) {
  const { previewer } = bench;
  const laneOf = ({ part, channel }) => scales.of.get(`${part} ${channel}`);

  /** Shift keeps to time or to value; Alt leaves whole frames, or keeps to them where the switch leaves them. */
  function pressKey(event, own) {
    if (event.button) return; // the other button opens its easing
    const isPicked = isPickedKey(own.part, own.channel, own.frame);
    if (event.shiftKey) {
      event.stopPropagation();
      return pickKeys(
        isPicked
          ? bench.pickedKeys.filter((key) => key.part !== own.part || key.channel !== own.channel || key.frame !== own.frame)
          : [...bench.pickedKeys, own],
      );
    }
    if (!isPicked) pickKeys([own]);
    const keys = bench.pickedKeys;
    let by = 0;
    follow(event, {
      holder: picture,
      previewer,
      edits(dx, dy, now) {
        const [isTime, isValue] = now.shiftKey ? [Math.abs(dx) > Math.abs(dy), Math.abs(dx) <= Math.abs(dy)] : [true, true];
        const frames = isTime ? dx / axis.scale : 0;
        by = bench.dragged(frames, now);
        /** @type {Edit[]} */
        const edits = by ? [{ edit: "move_keys", keys, by }] : [];
        if (isValue && dy)
          for (const some of byChannel(keys))
            edits.push({ edit: "raise_keys", keys: some.map((key) => ({ ...key, frame: key.frame + by })), by: -dy / laneOf(some[0]).k });
        return edits.length ? edits : null;
      },
      done: (isKept) => isKept && bench.pickKeys(keys.map((key) => ({ ...key, frame: key.frame + by }))),
    });
  }

  /** Both handles of a key as they count now, as offsets from it. */
  function handlesOf(curve, index) {
    const key = bench.parts.get(curve.part).channels[curve.channel].keys[index];
    const offset = (at) => at && [at[0] - key.frame, at[1] - key.value];
    return { key, in: offset(curve.segments[index - 1]?.[2]) ?? null, out: offset(curve.segments[index]?.[1]) ?? null };
  }

  function pressHandle(event, curve, index, side) {
    const known = handlesOf(curveOf(curve.part, curve.channel), index);
    const start = known[side];
    const { k } = laneOf(curve);
    const edits = (dx, dy, now) => shaped(curve, known, side, [start[0] + dx / axis.scale, start[1] - dy / k], now.altKey);
    follow(event, { holder: picture, previewer, edits });
  }
  pressHandle.byKey = (event, curve, index, side) => {
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    const known = handlesOf(curveOf(curve.part, curve.channel), index);
    const size = event.shiftKey ? 10 : 1;
    const offset = [known[side][0] + (step[0] * size) / 4, known[side][1] - (step[1] * size * 2) / laneOf(curve).k];
    bench.keep(shaped(curve, known, side, offset, event.altKey));
  };

  return { key: pressKey, handle: pressHandle };
}

/** Keys in lists of one channel each. */
function byChannel(keys) {
  const result = new Map();
  for (const key of keys) result.set(`${key.part} ${key.channel}`, [...(result.get(`${key.part} ${key.channel}`) ?? []), key]);
  return [...result.values()];
}

/**
 * The edit that brings one handle to an offset; the other keeps its length and stays in line where it was in line.
 * @returns {Edit[]}
 */
function shaped(curve, known, side, offset, isParted) {
  const { key } = known;
  const other = side === "in" ? "out" : "in";
  const limited = [side === "in" ? Math.min(offset[0], 0) : Math.max(offset[0], 0), offset[1]];
  const result = { [side]: limited, [other]: known[other] };
  if (!isParted && known[other] && inLine(known.in, known.out) && limited[0])
    result[other] = [known[other][0], (limited[1] / limited[0]) * known[other][0]];
  return [
    {
      edit: "set_handles",
      keys: [{ part: curve.part, channel: curve.channel, frame: key.frame }],
      handle_in: result.in,
      handle_out: result.out,
    },
  ];
}

function inLine(one, other) {
  if (!one?.[0] || !other?.[0]) return false;
  const [a, b] = [one[1] / one[0], other[1] / other[0]];
  return Math.abs(a - b) <= TOGETHER * Math.max(Math.abs(a), Math.abs(b), 1e-6);
}
