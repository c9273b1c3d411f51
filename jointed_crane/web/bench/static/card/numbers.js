// The numbers of the picked part: its channels, its turn, and its pivot.

import { facts } from "../state/facts.js";
import { turnsText } from "../elements/drawing.js";
import { mountField } from "../elements/fields.js";
import { makeCameraFields } from "./camera_fields.js";
import { makeDepthNumbers } from "./depth_numbers.js";
import { makePivotNumbers } from "./pivot_numbers.js";

/**
 * Mounts the fields; returns what draws each of them anew.
 * @param {Bench} bench
 */
export function makeNumbers(root, bench, acts) {
  const { previewer } = bench;
  const draws = makePivotNumbers(root, bench);

  const channel = (name, step, digits, fixed = false) => {
    const element = root.querySelector(`[data-channel="${name}"]`);
    const neutral = facts.channels[name].neutral;
    draws.push(
      mountField(
        element,
        {
          read: () => (bench.lead ? bench.value(bench.lead, name) : null),
          edits: (value, isPast) => {
            const parts = bench.picked;
            const now = bench.value(bench.lead, name);
            if (bench.channel(name).family === "scale" && bench.isTogether && now)
              return [{ edit: "scale_about", parts, factor: value / now, about: bench.about, frame: bench.at }];
            const values = { [name]: value, ...alongWith(bench, name, value, now) };
            return [{ edit: "set_values", parts, values, frame: bench.at, past_limits: isPast }];
          },
          neutral,
          step,
          digits,
          fixed,
          isShare: neutral === 1,
          isKeyed: () => bench.lead && bench.isKeyed(bench.lead, name),
        },
        previewer,
      ),
    );
  };
  channel("move.x", 1, 1);
  channel("move.y", 1, 1);
  channel("scale.x", 0.05, 3, true);
  channel("scale.y", 0.05, 3, true);
  channel("opacity", 0.05, 2);

  draws.push(
    ...turnFields(root, bench),
    mountRatio(root, bench),
    () => markDriven(root, bench),
    ...makeDepthNumbers(root, bench),
    ...makeCameraFields(root, bench, acts),
  );
  return draws;
}

/**
 * The other scale, where both keep their ratio; what has vanished has none, and takes the same number.
 * @param {Bench} bench
 */
function alongWith(bench, name, value, now) {
  const other = { "scale.x": "scale.y", "scale.y": "scale.x" }[name];
  if (!other || !bench.keepsRatio) return {};
  return { [other]: now ? (bench.value(bench.lead, other) * value) / now : value };
}

/** @param {Bench} bench */
function mountRatio(root, bench) {
  const button = root.querySelector("[data-card=ratio]");
  button.addEventListener("click", () => bench.setKeepsRatio(!bench.keepsRatio));
  return () => button.setAttribute("aria-pressed", String(bench.keepsRatio));
}

/**
 * Turn is one number, however many turns it is; beyond one a note says how many.
 * @param {any} root
 * @param {Bench} bench
 */
function turnFields(root, bench) {
  const turn = () => bench.value(bench.lead, "turn.z");
  const note = root.querySelector("[data-card=turns]");
  return [
    mountField(
      root.querySelector('[data-channel="turn.z"]'),
      {
        read: () => (bench.lead ? turn() : null),
        /** Typed turns of several parts about one centre turn them together by as much as the last picked one. */
        edits: (value, isPast) => {
          const parts = bench.picked;
          if (bench.isTogether) return [{ edit: "turn_about", parts, degrees: value - turn(), about: bench.about, frame: bench.at }];
          return [{ edit: "set_values", parts, values: { "turn.z": value }, frame: bench.at, past_limits: isPast }];
        },
        neutral: 0,
        step: 1,
        digits: 2,
        isKeyed: () => bench.lead && bench.isKeyed(bench.lead, "turn.z"),
      },
      bench.previewer,
    ),
    () => {
      note.textContent = bench.lead ? turnsText(turn()) : "";
    },
  ];
}

/**
 * Numbers that links add to, which show their own part alone.
 * @param {any} root
 * @param {Bench} bench
 */
function markDriven(root, bench) {
  for (const element of root.querySelectorAll("[data-panel=place] [data-channel]")) {
    const drivers = bench.lead
      ? bench
          .part(bench.lead)
          .links.filter(({ onto }) => onto === element.dataset.channel)
          .map(({ source }) => bench.part(source).name)
      : [];
    element.classList.toggle("field-driven", drivers.length > 0);
    element.title = drivers.length ? `${drivers.join(", ")} adds to it; the number is its own` : "";
  }
}
