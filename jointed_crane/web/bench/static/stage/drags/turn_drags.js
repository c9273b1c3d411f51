// Drags that turn and scale parts, about their own pivots or together.

import { readable, turnText } from "../../elements/drawing.js";
import { COARSE_TURN, ringDrag } from "./ring_drags.js";

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeTurnDrags(bench, view, handles, drag) {
  function turnDrag(start, turns = null) {
    if (turns) return ringDrag({ bench, view, drag }, start, turns);
    const parts = [...bench.picked];
    const lead = bench.lead;
    const isTogether = bench.isTogether;
    const pivot = isTogether ? handles.sharedCentre() : view.toScreen(view.pivot(lead));
    const centre = isTogether ? view.toStage(pivot) : null;
    const angle = ([x, y]) => (Math.atan2(y - pivot[1], x - pivot[0]) / Math.PI) * 180;
    let last = angle(start);
    let turned = 0;

    function about(step) {
      const degrees = step ? Math.round(turned / step) * step : turned;
      drag.text = turnText(degrees);
      drag.together = degrees;
      return [{ edit: "turn_about", parts, degrees, about: centre, frame: bench.at, ...view.through }];
    }

    /** What the number of the part picked last reads; the server knows which way it turns and where it ends. */
    function said(isPastLimits) {
      const shown = bench.value(lead, "turn.z");
      const [low, high] = (bench.isMotion && !isPastLimits && bench.part(lead).limits["turn.z"]) || [null, null];
      const isAtLimit = (low !== null && shown <= low) || (high !== null && shown >= high);
      return isAtLimit ? `${turnText(shown)} · the end of its range, Ctrl goes past it` : turnText(shown);
    }

    return {
      move(at, event) {
        const now = angle(at);
        let step = now - last;
        if (step > 180) step -= 360;
        if (step < -180) step += 360;
        turned += event.altKey ? step / 10 : step;
        last = now;
        const coarse = event.shiftKey ? COARSE_TURN : 0;
        if (isTogether) return about(coarse);
        const isPastLimits = event.ctrlKey;
        drag.text = () => said(isPastLimits);
        return [{ edit: "turn_by", parts, degrees: turned, step: coarse, frame: bench.at, past_limits: isPastLimits }];
      },
    };
  }

  function scaleDrag(at, axes) {
    const parts = [bench.lead, ...bench.picked.filter((id) => id !== bench.lead)];
    const start = view.toStage(at);
    if (bench.isTogether) {
      const centre = view.toStage(handles.sharedCentre());
      const reach = Math.hypot(start[0] - centre[0], start[1] - centre[1]);
      return {
        move(now) {
          const [x, y] = view.toStage(now);
          const factor = ((x - centre[0]) * (start[0] - centre[0]) + (y - centre[1]) * (start[1] - centre[1])) / reach ** 2;
          drag.text = `× ${readable(factor, 3, true)}`;
          return [{ edit: "scale_about", parts: bench.picked, factor, about: centre, frame: bench.at, ...view.through }];
        },
      };
    }
    return {
      move(now, event) {
        const lead = bench.lead;
        drag.text = () => `${readable(bench.value(lead, "scale.x"), 3, true)} × ${readable(bench.value(lead, "scale.y"), 3, true)}`;
        const both = event.shiftKey ? "both" : axes;
        const pulled = { parts, start, now: view.toStage(now), axes: both };
        return [{ edit: "scale_toward", ...pulled, frame: bench.at, past_limits: event.ctrlKey, ...view.through }];
      },
    };
  }

  return { turnDrag, scaleDrag };
}
