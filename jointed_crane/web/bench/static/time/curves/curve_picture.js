// The picture of one curve: its axis, its line, its keys, and the handles of those that are picked.

import { onPressed, readable, svg } from "../../elements/drawing.js";
import { NAMES, RULER } from "../axis.js";

/**
 * What draws a curve into a group; `rangeOf` gives its lowest and highest value, `press` what a press on a key or handle begins.
 * @param {Shared} shared
 */
export function makeCurvePicture({ bench, axis, scales, view, shown, keysOf, rangeOf, nameOf, isPickedKey, pickKeys, press }) {
  /** Level lines of a curve, and their values at the side, beside its name; where there is no room for both, the outer ones. */
  function drawAxis(group, picture, curve, { y }, height) {
    const [low, high] = scales.isTrue
      ? [...scales.of.keys()].reduce(
          ([least, most], name) => {
            const [a, b] = rangeOf(shown().find((one) => nameOf(one) === name));
            return [Math.min(least, a), Math.max(most, b)];
          },
          [Infinity, -Infinity],
        )
      : rangeOf(curve); // prettier-ignore
    const said = [];
    for (const value of low < 0 && high > 0 ? [low, high, 0] : [low, high]) {
      group.append(svg("path", { d: `M0 ${y(value)}H${axis.width}`, class: "stroke-line-soft", "pointer-events": "none" }));
      const at = Math.min(Math.max(y(value) + 4, RULER + 12), height - 4);
      if (!scales.areSaid || said.some((other) => Math.abs(other - at) < 12)) continue;
      said.push(at);
      picture.append(
        svg(
          "text",
          { x: NAMES - 4, y: at, "text-anchor": "end", class: "fill-mute text-[11px]", "pointer-events": "none" },
          `${readable(value, 2)}${view() === "speeds" ? " /s" : ""}`,
        ),
      );
    }
  }

  const place = ([frame, value], { y }) => `${axis.xOf(frame)} ${y(value)}`;
  function line(places, lane) {
    return svg("path", {
      d: places.length ? `M${places.map((one) => place(one, lane)).join("L")}` : "",
      fill: "none",
      class: "curve-line",
      "stroke-width": 1.8,
      "pointer-events": "none",
    });
  }

  /** `areGrips`: whether each key can be taken hold of; where there are very many, they are marks alone. */
  function drawCurve(group, curve, lane, areGrips) {
    const keys = keysOf(curve);
    if (curve.course.length) {
      const course = line(curve.course, lane);
      course.setAttribute("stroke-opacity", 0.45);
      group.append(course);
    } else if (keys.length) group.append(...beyond(keys, bench.stage.length - 1).map((places) => line(places, lane)));
    const path = curve.segments.map(([a, b, c, d], index) => {
      const end =
        keys[index]?.kind === "hold" ? `H${axis.xOf(d[0])}V${lane.y(d[1])}` : `C${place(b, lane)} ${place(c, lane)} ${place(d, lane)}`;
      return `M${place(a, lane)}${end}`;
    });
    group.append(svg("path", { d: path.join(""), fill: "none", class: "curve-line", "stroke-width": 2, "pointer-events": "none" }));
    keys.forEach((key, index) => {
      if (isPickedKey(curve.part, curve.channel, key.frame)) drawHandles({ bench, axis, place, press }, group, curve, keys, index, lane);
    });
    if (!areGrips) {
      const marks = keys.map((key) => `M${axis.xOf(key.frame)} ${lane.y(key.value) - 4}v8`);
      return group.append(
        svg("path", { d: marks.join(""), class: "stroke-brass", "stroke-width": 4, "stroke-linecap": "round", "pointer-events": "none" }),
      );
    }
    for (const key of keys) {
      const x = axis.xOf(key.frame);
      if (x > NAMES - 8 && x < axis.width + 8) group.append(pill({ bench, axis, isPickedKey, pickKeys, press }, curve, key, lane));
    }
  }

  return { drawAxis, drawCurve, line };
}

/** The level lines before the first key and after the last. */
const beyond = (keys, end) => [
  [
    [0, keys[0].value],
    [keys[0].frame, keys[0].value],
  ],
  [
    [keys.at(-1).frame, keys.at(-1).value],
    [end, keys.at(-1).value],
  ],
];

/**
 * A key of a curve, to be taken hold of.
 * @param {Shared} shared
 */
function pill({ bench, axis, isPickedKey, pickKeys, press }, curve, key, lane) {
  const isPicked = isPickedKey(curve.part, curve.channel, key.frame);
  const own = { part: curve.part, channel: curve.channel, frame: key.frame };
  const element = svg("rect", {
    x: axis.xOf(key.frame) - 4,
    y: lane.y(key.value) - 7,
    width: 8,
    height: 14,
    rx: 4,
    class: `fill-brass ${isPicked ? "stroke-coral" : "stroke-card"} cursor-move`,
    "stroke-width": isPicked ? 3 : 1.4,
    tabindex: 0,
    role: "button",
    "aria-label": `${bench.channel(curve.channel).label} key at frame ${readable(key.frame)}, value ${readable(key.value)}`,
    "data-curve-key": `${curve.channel}@${key.frame}`,
  });
  element.append(svg("title", {}, `${readable(key.value)} at frame ${readable(key.frame)}`));
  element.keys = [own];
  element.addEventListener("pointerdown", (event) => press.key(event, own));
  onPressed(element, (event) => pickKeys([own], event.shiftKey));
  return element;
}

/**
 * The handles of a key that is picked, with their lines to it.
 * @param {Shared} shared
 */
function drawHandles({ bench, axis, place, press }, group, curve, keys, index, lane) {
  const key = keys[index];
  const ends = [
    index > 0 && keys[index - 1].kind === "eased" && ["in", curve.segments[index - 1]?.[2]],
    key.kind === "eased" && index < keys.length - 1 && ["out", curve.segments[index]?.[1]],
  ];
  for (const [side, at] of ends.filter((end) => end?.[1])) {
    group.append(
      svg("path", {
        d: `M${place([key.frame, key.value], lane)}L${place(at, lane)}`,
        class: "stroke-lagoon",
        "stroke-width": 1.3,
        "pointer-events": "none",
      }),
    );
    const dot = svg("circle", {
      cx: axis.xOf(at[0]),
      cy: lane.y(at[1]),
      r: 4.5,
      class: "fill-card stroke-lagoon cursor-move",
      "stroke-width": 1.8,
      tabindex: 0,
      role: "button",
      "aria-label": `Handle ${side} of ${bench.channel(curve.channel).label} at frame ${readable(key.frame)}`,
      "data-handle": side,
    });
    dot.append(
      svg(
        "title",
        {},
        `Handle: ${readable(at[0] - key.frame, 1)} frames, ${readable(at[1] - key.value, 2)}; arrow keys move it, Alt parts the two handles`,
      ),
    );
    dot.addEventListener("pointerdown", (event) => press.handle(event, curve, index, side));
    dot.addEventListener("keydown", (event) => press.handle.byKey(event, curve, index, side));
    group.append(dot);
  }
}
