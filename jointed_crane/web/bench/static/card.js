// The joint card: the picked part's name, parent and numbers, its pivot in the art and the nine points.

import { perFrame, pin, readable, svg } from "./drawing.js";
import { mountArtTab } from "./art_tab.js";
import { mountField } from "./fields.js";
import { ringsPath } from "./figures.js";
import { mountJointTab } from "./joint_tab.js";
import { Previewer } from "./previewing.js";

const NINE = [0, 0.5, 1].flatMap((y) => [0, 0.5, 1].map((x) => [x, y]));
const NAMES = ["upper left corner", "upper middle", "upper right corner", "left middle", "centre", "right middle", "lower left corner", "lower middle", "lower right corner"];

export function mountCard(root, bench, acts, sheets) {
  const previewer = new Previewer(bench);
  let tab = "place";
  const panels = [...root.querySelectorAll("[data-panel]")];
  const tabs = [...root.querySelectorAll("[data-tab]")];
  const joint = mountJointTab(root, bench, acts, previewer, () => tab === "joint");
  const art = mountArtTab(root, bench, acts, previewer, sheets);
  function openTab(name) {
    tab = name;
    for (const panel of panels) panel.hidden = panel.dataset.panel !== tab;
    for (const button of tabs) {
      button.setAttribute("aria-selected", button.dataset.tab === tab);
      button.tabIndex = button.dataset.tab === tab ? 0 : -1;
    }
    drawTab();
    drawNumbers();
  }
  function drawTab() {
    if (tab === "joint") {
      joint.draw();
      joint.ask();
    }
    if (tab === "art") art.draw();
  }
  for (const [index, button] of tabs.entries()) {
    button.addEventListener("click", () => openTab(button.dataset.tab));
    button.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: tabs.length - 1, ArrowRight: 1 }[event.key];
      if (!by) return;
      event.preventDefault();
      event.stopPropagation();
      tabs[(index + by) % tabs.length].click();
      tabs[(index + by) % tabs.length].focus();
    });
  }
  const find = (name) => root.querySelector(`[data-card=${name}]`);
  const draws = [];

  const channel = (name, step, digits, fixed = false) => {
    const element = root.querySelector(`[data-channel="${name}"]`);
    const neutral = bench.channels[name].neutral;
    draws.push(
      mountField(
        element,
        {
          read: () => (bench.lead ? bench.value(bench.lead, name) : null),
          edits: (value, isPast) => {
            const parts = bench.picked;
            const now = bench.value(bench.lead, name);
            if (name.startsWith("scale") && bench.isTogether && parts.length > 1 && now)
              return [{ edit: "scale_about", parts, factor: value / now, about: bench.about, frame: bench.at }];
            return [{ edit: "set_values", parts, values: { [name]: value }, frame: bench.at, past_limits: isPast }];
          },
          neutral,
          step,
          digits,
          fixed,
          isKeyed: () => bench.lead && bench.isKeyed(bench.lead, name),
        },
        bench,
        previewer,
      ),
    );
  };
  channel("move.x", 1, 1);
  channel("move.y", 1, 1);
  channel("scale.x", 0.05, 3, true);
  channel("scale.y", 0.05, 3, true);
  channel("opacity", 0.05, 2);

  // Turn is one number in two fields: whole turns, and the degrees beside them.
  const turn = () => bench.value(bench.lead, "turn.z");
  /** Typed turns of several parts about one centre turn them together by as much as the last picked one. */
  const setTurn = (value, isPast) => {
    const parts = bench.picked;
    if (bench.isTogether && parts.length > 1) return [{ edit: "turn_about", parts, degrees: value - turn(), about: bench.about, frame: bench.at }];
    return [{ edit: "set_values", parts, values: { "turn.z": value }, frame: bench.at, past_limits: isPast }];
  };
  const whole = (degrees) => Math.trunc(degrees / 360);
  const isTurnKeyed = () => bench.lead && bench.isKeyed(bench.lead, "turn.z");
  draws.push(
    mountField(
      root.querySelector('[data-channel="turn.z"]'),
      {
        read: () => (bench.lead ? turn() - 360 * whole(turn()) : null),
        edits: (value, isPast) => setTurn(value + 360 * whole(turn()), isPast),
        neutral: 0, step: 1, digits: 2, isKeyed: isTurnKeyed,
      },
      bench,
      previewer,
    ),
    mountField(
      find("turns"),
      {
        read: () => (bench.lead ? whole(turn()) : null),
        edits: (value, isPast) => setTurn(turn() + 360 * (Math.round(value) - whole(turn())), isPast),
        neutral: 0, step: 1, digits: 0, isKeyed: isTurnKeyed,
      },
      bench,
      previewer,
    ),
  );

  // The pivot, in px of the art and as a fraction of its box
  const bounds = () => bench.lead && bench.drawingOf(bench.lead)?.bounds;
  const movePivot = (point, unit) => [{ edit: "move_pivot", part: bench.lead, point, unit, keep: bench.keeps, frame: bench.at }];
  const pivot = () => bench.part(bench.lead).pivot;
  const onStage = () => bench.poseOf(bench.lead).pivot;
  const fraction = (axis) => {
    const box = bounds();
    const size = box[axis + 2] - box[axis];
    return size ? (pivot()[axis] - box[axis]) / size : 0.5;
  };
  for (const axis of [0, 1]) {
    const replaced = (value, other) => (axis === 0 ? [value, other] : [other, value]);
    draws.push(
      mountField(
        find(`pivot-px-${"xy"[axis]}`),
        { read: () => (bench.lead ? pivot()[axis] : null), edits: (value) => movePivot(replaced(value, pivot()[1 - axis]), "art"), step: 1, digits: 1 },
        bench,
        previewer,
      ),
      mountField(
        find(`pivot-part-${"xy"[axis]}`),
        {
          read: () => (bounds() ? fraction(axis) : null),
          edits: (value) => movePivot(replaced(value, fraction(1 - axis)), "fraction"),
          neutral: 0.5, step: 0.05, digits: 3,
        },
        bench,
        previewer,
      ),
      mountField(
        find(`pivot-stage-${"xy"[axis]}`),
        { read: () => (bench.lead ? onStage()[axis] : null), edits: (value) => movePivot(replaced(value, onStage()[1 - axis]), "stage"), step: 1, digits: 1 },
        bench,
        previewer,
      ),
    );
  }

  for (const button of root.querySelectorAll("[data-keeps]")) button.addEventListener("click", () => bench.setKeeps(button.dataset.keeps));
  const name = find("name");
  name.addEventListener("change", async () => {
    if (bench.lead) await bench.keep([{ edit: "rename_part", part: bench.lead, name: name.value }]);
    drawHead();
  });
  name.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Enter" || event.key === "Escape") {
      if (event.key === "Escape") name.value = bench.part(bench.lead)?.name ?? "";
      name.blur();
    }
  });
  const parent = find("parent");
  parent.addEventListener("change", () => bench.keep([{ edit: "join", parts: bench.picked, parent: parent.value || null, frame: bench.at }]));
  // The list is filled when it is opened: hundreds of names for every pick would take longer than a frame.
  for (const name of ["pointerdown", "focus"]) parent.addEventListener(name, fillParents);
  function fillParents() {
    if (!bench.lead || parent.length > 1) return;
    const part = bench.part(bench.lead);
    const below = new Set(bench.picked);
    for (const id of below) for (const child of bench.children(id)) below.add(child);
    const others = bench.order.filter((id) => !below.has(id) || id === part.parent);
    parent.replaceChildren(new Option("the stage", ""), ...others.map((id) => new Option(bench.part(id).name, id)));
    parent.value = part.parent ?? "";
  }
  const shown = find("shown");
  shown.addEventListener("change", () => bench.keep([{ edit: "set_values", parts: bench.picked, values: { shown: shown.checked ? 1 : 0 }, frame: bench.at }]));

  function drawHead() {
    const id = bench.lead;
    find("empty").hidden = Boolean(id);
    find("full").hidden = !id;
    if (!id) return;
    const part = bench.part(id);
    if (!name.matches(":focus")) name.value = part.name;
    find("many").textContent = bench.picked.length > 1 ? `and ${bench.picked.length - 1} more` : "";
    find("sign-pin").toggleAttribute("hidden", part.kind === "helper");
    find("sign-helper").toggleAttribute("hidden", part.kind !== "helper");
    parent.replaceChildren(new Option(part.parent ? bench.part(part.parent).name : "the stage", part.parent ?? ""));
    for (const button of root.querySelectorAll("[data-keeps]")) button.setAttribute("aria-pressed", button.dataset.keeps === bench.keeps);
  }

  function drawNumbers() {
    if (!bench.lead) return;
    for (const draw of draws) draw();
    shown.checked = bench.value(bench.lead, "shown") >= 0.5;
    shown.parentElement.classList.toggle("text-brass-ink", bench.isKeyed(bench.lead, "shown"));
    find("state").textContent = bench.isMotion ? `Motion at frame ${readable(bench.frame)}` : "Rest values";
    drawPicture();
  }

  const picture = find("picture");
  function drawPicture() {
    picture.replaceChildren();
    const box = bounds();
    const drawing = bench.lead && bench.drawingOf(bench.lead);
    picture.toggleAttribute("hidden", !drawing);
    if (!drawing) return;
    const [left, top, right, bottom] = box;
    const room = Math.max(right - left, bottom - top) || 1;
    // Very flat art is drawn wider than it is, so that its nine points can be told apart.
    const [kx, ky] = [right - left, bottom - top].map((size) => Math.max(72 / room, 34 / (size || 1)));
    const x0 = 46 - ((left + right) / 2) * kx;
    const y0 = 46 - ((top + bottom) / 2) * ky;
    const place = ([x, y]) => [x0 + x * kx, y0 + y * ky];
    picture.append(svg("path", { d: ringsPath(drawing.outline), transform: `translate(${x0} ${y0}) scale(${kx} ${ky})`, class: "fill-mute", "fill-opacity": 0.45, "fill-rule": "evenodd" }));
    picture.append(svg("rect", { x: x0 + left * kx, y: y0 + top * ky, width: (right - left) * kx, height: (bottom - top) * ky, fill: "none", class: "stroke-mute", "stroke-dasharray": "2 3" }));
    NINE.forEach((share, index) => {
      const [x, y] = place([left + share[0] * (right - left), top + share[1] * (bottom - top)]);
      const button = svg("rect", { x: x - 4.5, y: y - 4.5, width: 9, height: 9, class: "fill-card stroke-brass cursor-pointer", "stroke-width": 1.4, tabindex: 0, role: "button", "aria-label": `Pivot to the ${NAMES[index]}` });
      button.append(svg("title", {}, `Pivot to the ${NAMES[index]}`));
      const go = () => bench.keep(movePivot(share, "fraction"));
      button.addEventListener("click", go);
      button.addEventListener("keydown", (event) => (event.key === "Enter" || event.key === " ") && (event.preventDefault(), event.stopPropagation(), go()));
      picture.append(button);
    });
    const at = place(bench.part(bench.lead).pivot).map((value) => Math.min(Math.max(value, 6), 86));
    const sign = pin(at[0], at[1], { size: 6 });
    sign.setAttribute("pointer-events", "none");
    picture.append(sign);
  }

  bench.on("picked scene state", perFrame(drawHead));
  bench.on("picked pose state", perFrame(drawNumbers));
  bench.on("picked scene state", perFrame(() => bench.lead && drawTab()));
}
