// Drags in depth: going round what is seen, moving the camera that is on, and moving parts along an axis.

import { clamp, readable } from "../../elements/drawing.js";
import { SIDES } from "../../state/looks.js";

/** How far a view goes round for a px that is dragged, degrees. */
const ROUND = 0.4;

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeViewDrags(bench, view, drag) {
  /** Go round what a free view looks at; from a straight view on it is a free one. */
  function roundDrag(at) {
    const { yaw = 0, pitch = 0 } = view.look.side === "free" ? view.look : SIDES[view.look.side];
    const isFree = view.look.side === "free";
    const index = view.index;
    return {
      move([x, y]) {
        const turned = { yaw: yaw - (x - at[0]) * ROUND, pitch: clamp(pitch + (y - at[1]) * ROUND, -89.9, 89.9) };
        bench.setLook(index, { side: "free", ...turned }, isFree || view.look.side === "free");
        return null;
      },
      drop() {},
    };
  }

  /** Move the camera that is on: round what it looks at, with Shift aside, with Ctrl nearer. */
  function cameraDrag(start) {
    const camera = bench.cameraOn;
    const frame = bench.at;
    return {
      move([x, y], event) {
        const [dx, dy] = [x - start[0], y - start[1]];
        if (event.ctrlKey) return [{ edit: "move_camera", camera, nearer: clamp(-dy / 400, -20, 0.95), frame }];
        if (event.shiftKey) return [{ edit: "move_camera", camera, aside: [dx / view.k, dy / view.k], frame }];
        return [{ edit: "move_camera", camera, round: [-dx * ROUND, dy * ROUND], frame }];
      },
    };
  }

  /** Move along an axis, as far along it on the screen as the pointer goes. */
  function axisDrag(start, { axis, way }) {
    const [wx, wy] = way.split(",").map(Number);
    const parts = [...bench.picked];
    const of = bench.along;
    return {
      move([x, y], event) {
        let px = ((x - start[0]) * wx + (y - start[1]) * wy) / (wx ** 2 + wy ** 2) / view.k;
        if (event.altKey) px /= 10;
        drag.text = `${axis} ${readable(px, 1)} px`;
        return [{ edit: "move_along", parts, axis, px, of: of === "sight" ? "stage" : of, frame: bench.at, past_limits: event.ctrlKey }];
      },
    };
  }

  return { roundDrag, cameraDrag, axisDrag };
}
