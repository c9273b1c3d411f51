// The row of markers: a flag on a named frame, a bar over a named span; dragged in time, and picked to be played.

import { follow } from "../../elements/following.js";
import { onPressed, readable, svg } from "../../elements/drawing.js";
import { ROW } from "../axis.js";

const GRIP = 7;

/**
 * What draws the row; `opened(marker)` is called for the marker that is to be named anew.
 * @param {Shared} shared
 */
export function makeMarkers({ bench, play, picture, field, axis, opened }) {
  const press = makeMarkerDrags({ bench, play, picture, axis, opened });

  function draw(y) {
    const middle = y + ROW / 2;
    picture.append(
      svg("path", { d: `M0 ${y + ROW - 0.5}H${axis.width}`, class: "stroke-line-soft" }),
      svg("text", { x: 14, y: middle + 4.5, class: "fill-ink font-bold" }, "Markers"),
    );
    for (const marker of [...bench.markers].sort((one, other) => one.frame - other.frame))
      field.append(marker.until === null ? flag(marker, middle) : bar(marker, middle));
  }

  const line = (isPicked) => ({ class: isPicked ? "stroke-coral" : "stroke-lagoon", "stroke-width": isPicked ? 2.5 : 1.5 });

  function flag(marker, middle) {
    const x = axis.xOf(marker.frame);
    const pole = svg("path", {
      d: `M${x} ${middle + 11}V${middle - 10}h11l-3 4.5 3 4.5h-11`,
      fill: "var(--color-lagoon-light)",
      ...line(bench.pickedMarker === marker.id),
    });
    const element = named({ bench, opened }, marker, `${marker.name} at frame ${readable(marker.frame)}`);
    element.append(pole, words(marker, x + 15, middle));
    element.addEventListener("pointerdown", (event) => press(event, marker, "from"));
    return element;
  }

  function bar(marker, middle) {
    const [from, to] = [axis.xOf(marker.frame), axis.xOf(marker.until)];
    const element = named({ bench, opened }, marker, `${marker.name} from frame ${readable(marker.frame)} to ${readable(marker.until)}`);
    const body = svg("rect", {
      x: from - 3,
      y: middle - 9,
      width: Math.max(to - from, 0) + 6,
      height: 18,
      rx: 5,
      fill: "var(--color-lagoon-light)",
      ...line(bench.pickedMarker === marker.id),
    });
    element.append(body, words(marker, Math.max(from, axis.left) + 6, middle));
    element.addEventListener("pointerdown", (event) => press(event, marker, "from to"));
    for (const [x, ends] of [
      [from - 3, "from"],
      [to + 3 - GRIP, "to"],
    ]) {
      const grip = svg("rect", {
        x,
        y: middle - 9,
        width: GRIP,
        height: 18,
        fill: "transparent",
        class: "cursor-ew-resize",
        "data-end": ends,
      });
      grip.addEventListener("pointerdown", (event) => press(event, marker, ends));
      element.append(grip);
    }
    return element;
  }

  const words = (marker, x, middle) => svg("text", { x, y: middle + 4.5, class: "fill-ink", "pointer-events": "none" }, marker.name);

  return draw;
}

/**
 * What begins to drag a marker; `ends` says which of its ends go along.
 * @param {Shared} shared
 */
function makeMarkerDrags({ bench, play, picture, axis, opened }) {
  let pressed = { id: null, time: 0 };
  return function press(event, marker, ends) {
    if (event.button !== 0) return;
    play.stop();
    // The row is drawn anew in between, so the browser itself tells of no double click.
    const isAgain = pressed.id === marker.id && event.timeStamp - pressed.time < 400;
    pressed = { id: marker.id, time: event.timeStamp };
    if (isAgain) return opened(marker.id);
    bench.pickMarker(marker.id);
    follow(event, {
      holder: picture,
      previewer: bench.previewer,
      edits(dx, _, now) {
        const by = bench.dragged(dx / axis.scale, now);
        return by ? [moved(marker, by, ends)] : null;
      },
    });
  };
}

/** @returns {Edit} */
function moved({ id, frame, until }, by, ends) {
  const isSpan = until !== null;
  return {
    edit: "set_marker",
    marker: id,
    frame: ends.includes("from") ? frame + by : frame,
    until: isSpan ? (ends.includes("to") ? until + by : until) : null,
  };
}

/**
 * The element of a marker, which keys pick and open.
 * @param {Shared} shared
 */
function named({ bench, opened }, marker, label) {
  const element = svg("g", {
    tabindex: 0,
    role: "button",
    "aria-label": label,
    "aria-pressed": bench.pickedMarker === marker.id,
    "data-marker": marker.id,
    "data-place": `marker ${marker.id}`,
    class: "cursor-grab",
  });
  element.append(
    svg(
      "title",
      {},
      `${label}. A drag moves it; Enter names it anew${marker.until === null ? "" : "; while it is picked, playing stays in it"}`,
    ),
  );
  onPressed(element, (event) => {
    if (bench.pickedMarker === marker.id && event.key === "Enter") return opened(marker.id);
    bench.pickMarker(marker.id);
  });
  return element;
}
