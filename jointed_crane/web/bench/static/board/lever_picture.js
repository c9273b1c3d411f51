// A lever as it is drawn and taken hold of: a track with a knob, or a pad; the same on the board and on the stage.

import { clamp, svg } from "../elements/drawing.js";
import { following, hold } from "../elements/following.js";
import { AXES, leverEdits, leverWords } from "../state/levers.js";

const EDGE = 9; // px between the ends of the track and the ends of the picture
const HOME = 4; // px from the neutral mark within which a hand comes to rest on it

/**
 * A picture `width` px wide: {element, height, draw}. A drag sets values, double-click neutral, arrow keys a step.
 * @param {Bench} bench
 */
export function leverPicture(bench, id, width) {
  const { previewer } = bench;
  const { axes } = bench.part(id).lever;
  const isPad = axes.length === 2;
  const height = isPad ? width : 26;
  const inner = width - 2 * EDGE;
  const xOf = (value) => EDGE + ((value - axes[0].low) / (axes[0].high - axes[0].low)) * inner;
  const yOf = (value) => (isPad ? height - EDGE - ((value - axes[1].low) / (axes[1].high - axes[1].low)) * inner : height / 2);
  const home = axes.map(({ neutral }) => neutral);
  const element = svg("g", { tabindex: 0, role: "slider", class: "lever cursor-pointer", "data-lever": id });
  const knob = svg("circle", { r: 8, class: "fill-lagoon-light stroke-lagoon", "stroke-width": 2 });
  element.append(...(isPad ? padTrack({ width, xOf, yOf }, home) : sliderTrack({ width, height, xOf }, home)), knob);

  function valuesAt(event) {
    const box = element.querySelector("rect").getBoundingClientRect();
    const sizes = [box.width - 2 * EDGE, box.height - 2 * EDGE];
    const shares = [(event.clientX - box.left - EDGE) / sizes[0], 1 - (event.clientY - box.top - EDGE) / sizes[1]];
    return Object.fromEntries(axes.map((axis, index) => [AXES[index], valueAt(axis, shares[index], sizes[index], event.altKey)]));
  }
  element.addEventListener("pointerdown", (event) => {
    if (event.button !== 0) return;
    hold(event);
    element.focus({ preventScroll: true });
    let values = null;
    following(event, {
      holder: element,
      move(now) {
        if (!values && Math.hypot(now.clientX - event.clientX, now.clientY - event.clientY) < 2) return;
        values = valuesAt(now);
        previewer.ask(leverEdits(bench, id, values));
      },
      done(last, isKept) {
        if (!isKept) return previewer.cancel();
        values ??= last.detail > 1 ? null : valuesAt(last);
        if (values) previewer.keep(leverEdits(bench, id, values));
      },
    });
  });
  element.addEventListener("dblclick", (event) => {
    event.stopPropagation();
    previewer.keep(leverEdits(bench, id, Object.fromEntries(home.map((value, index) => [AXES[index], value]))));
  });
  element.addEventListener("keydown", (event) => {
    const [index, sign] =
      { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowDown: [isPad ? 1 : 0, -1], ArrowUp: [isPad ? 1 : 0, 1] }[event.key] ?? [];
    if (index === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const { low, high, step } = axes[index];
    const size = (step || (high - low) / 20) * (event.shiftKey ? 5 : event.altKey && !step ? 0.1 : 1);
    setSoon(AXES[index], clamp((wanted[AXES[index]] ?? bench.value(id, AXES[index])) + sign * size, low, high));
  });
  const wanted = {}; // what has been set and not been answered yet, so that quick steps add up
  async function setSoon(channel, value) {
    wanted[channel] = value;
    await previewer.keep(leverEdits(bench, id, { [channel]: value }));
    if (wanted[channel] === value) delete wanted[channel];
  }

  function draw() {
    const values = axes.map((axis, index) => clamp(bench.value(id, AXES[index]), axis.low, axis.high));
    knob.setAttribute("cx", xOf(values[0]));
    knob.setAttribute("cy", yOf(values[1]));
    const isKeyed = axes.some((_, index) => bench.isKeyed(id, AXES[index]));
    knob.setAttribute("class", isKeyed ? "fill-brass-light stroke-brass" : "fill-lagoon-light stroke-lagoon");
    element.setAttribute("aria-label", bench.part(id).name);
    element.setAttribute("aria-valuemin", axes[0].low);
    element.setAttribute("aria-valuemax", axes[0].high);
    element.setAttribute("aria-valuenow", values[0]);
    element.setAttribute("aria-valuetext", leverWords(bench, id));
  }
  draw();
  return { element, height, draw };
}

/**
 * The value at a share of a track of so many px. A hand sets round numbers, a two-hundredth of the range, and comes to rest
 * on the neutral mark; free ones are as they are.
 * @param {any} axis
 */
function valueAt({ low, high, neutral }, share, size, isFree) {
  const value = low + share * (high - low);
  const step = (high - low) / 200;
  const isHome = (Math.abs(value - neutral) / (high - low)) * size <= HOME;
  return clamp(isFree ? value : isHome ? neutral : Math.round(value / step) * step, low, high);
}

/** A square with a cross at neutral. */
function padTrack({ width, xOf, yOf }, home) {
  return [
    svg("rect", { x: 1, y: 1, width: width - 2, height: width - 2, rx: 8, class: "fill-card stroke-line" }),
    svg("path", { d: `M${EDGE} ${yOf(home[1])}H${width - EDGE}M${xOf(home[0])} ${EDGE}V${width - EDGE}`, class: "stroke-line" }),
  ];
}

/** A line with a tick at neutral. */
function sliderTrack({ width, height, xOf }, home) {
  const middle = height / 2;
  return [
    svg("rect", { width, height, fill: "transparent" }),
    svg("path", { d: `M${EDGE} ${middle}H${width - EDGE}`, class: "stroke-line", "stroke-width": 5, "stroke-linecap": "round" }),
    svg("path", { d: `M${xOf(home[0])} ${middle - 8}V${middle + 8}`, class: "stroke-mute", "stroke-width": 1.6 }),
  ];
}
