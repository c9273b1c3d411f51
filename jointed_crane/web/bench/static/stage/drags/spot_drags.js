// Drags of points that others refer to: eyelets and marks, and the points on which parts stand.

import { readable } from "../../elements/drawing.js";
import { freshId } from "../../state/fresh_id.js";
import { inArt, placedIn } from "./point_drags.js";

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeSpotDrags(bench, view, drag) {
  const placed = placedIn(bench, view);
  function spotDrag(spot, start) {
    const place = view.toStage(spot.mark ? view.onStage(bench.spotThing.place) : view.screen(spot.part, bench.spotThing.point));
    return {
      move([x, y], event) {
        const point = [place[0] + (x - start[0]) / view.k, place[1] + (y - start[1]) / view.k];
        if (spot.mark) {
          drag.text = () => bench.over?.snap ?? `${readable(point[0], 1)}, ${readable(point[1], 1)} px`;
          return [
            {
              edit: "set_mark",
              mark: spot.mark,
              place: point,
              snapping: bench.snapping(event.altKey, view.k),
              frame: bench.at,
              ...view.through,
            },
          ];
        }
        drag.text = () => bench.over?.snap ?? inArt(bench.spotThing.point);
        return [
          {
            edit: "move_eyelet",
            ...spot,
            point,
            ...placed(event.altKey),
          },
        ];
      },
    };
  }

  /** A press with the Eyelet tool: a click leaves an eyelet there, a drag carries it to its place first. */
  function newEyelet(part, start) {
    const id = freshId();
    const edits = (at, isLeft) => [
      {
        edit: "add_eyelet",
        part,
        id,
        point: view.toStage(at),
        ...placed(isLeft),
      },
    ];
    return {
      tap() {
        queueMicrotask(() => bench.work.then(() => bench.pickSpot({ part, eyelet: id })));
        return edits(start, false);
      },
      move(at, event) {
        drag.text = () => bench.over?.snap ?? `eyelet of ${bench.part(part).name}`;
        return edits(at, event.altKey);
      },
    };
  }

  /** A press with the Stand tool: from this frame on the part stands on the point, which a drag may still move. */
  function newStand(part, start) {
    const edits = (at, isLeft) => [
      {
        edit: "set_foothold",
        part,
        point: view.toStage(at),
        ...placed(isLeft),
      },
    ];
    return {
      tap: () => edits(start, false),
      move(at, event) {
        drag.text = () => bench.over?.snap ?? `stands here from frame ${bench.frame}`;
        return edits(at, event.altKey);
      },
    };
  }

  return { spotDrag, newEyelet, newStand };
}
