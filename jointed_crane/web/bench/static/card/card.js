// The joint card: the picked part's name, parent and numbers, its pivot in the art and the nine points.

import { perFrame, readable } from "../elements/drawing.js";
import { mountArtTab } from "./art_tab.js";
import { mountConstraintsTab } from "./constraints_tab.js";
import { mountJointTab } from "./joint_tab.js";
import { makeNumbers } from "./numbers.js";
import { drawPivotPicture } from "./pivot_picture.js";

/** @param {Bench} bench */
export function mountCard(root, bench, acts, sheets) {
  let tab = "place";
  const panels = [...root.querySelectorAll("[data-panel]")];
  const tabs = [...root.querySelectorAll("[data-tab]")];
  const joint = mountJointTab(root, bench, acts, () => tab === "joint");
  const art = mountArtTab(root, bench, acts, sheets);
  const constraints = mountConstraintsTab(root, bench, acts);
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
    if (tab === "constraints") constraints.draw();
  }
  mountTabs(tabs, openTab);
  const find = (name) => root.querySelector(`[data-card=${name}]`);

  const draws = makeNumbers(root, bench, acts);
  for (const button of root.querySelectorAll("[data-keeps]")) button.addEventListener("click", () => bench.setKeeps(button.dataset.keeps));
  const name = find("name");
  mountName(name, bench, () => drawHead());
  const parent = find("parent");
  mountParents(parent, bench);
  const shown = find("shown");
  shown.addEventListener("change", () =>
    bench.keep([{ edit: "set_values", parts: bench.picked, values: { shown: shown.checked ? 1 : 0 }, frame: bench.at }]),
  );

  function drawHead() {
    const id = bench.lead;
    find("empty").hidden = Boolean(id);
    find("full").hidden = !id;
    if (!id) return;
    const part = bench.part(id);
    if (!name.matches(":focus")) name.value = part.name;
    find("many").textContent = bench.picked.length > 1 ? `and ${bench.picked.length - 1} more` : "";
    find("sign-pin").toggleAttribute("hidden", ["helper", "lever", "camera"].includes(part.kind));
    for (const kind of ["helper", "lever", "camera"]) find(`sign-${kind}`).toggleAttribute("hidden", part.kind !== kind);
    parent.replaceChildren(new Option(part.parent ? bench.part(part.parent).name : "the stage", part.parent ?? ""));
    for (const button of root.querySelectorAll("[data-keeps]")) button.setAttribute("aria-pressed", button.dataset.keeps === bench.keeps);
  }

  function drawNumbers() {
    if (!bench.lead) return;
    for (const draw of draws) draw();
    shown.checked = bench.value(bench.lead, "shown") >= 0.5;
    shown.parentElement.classList.toggle("text-brass-ink", bench.isKeyed(bench.lead, "shown"));
    find("state").textContent = bench.isMotion ? `Motion at frame ${readable(bench.frame)}` : "Rest values";
    if (tab === "constraints") constraints.draw();
    drawPivotPicture(find("picture"), bench);
  }

  bench.on("picked scene state", perFrame(drawHead));
  bench.on("picked pose state seen", perFrame(drawNumbers));
  bench.on(
    "picked scene state",
    perFrame(() => bench.lead && drawTab()),
  );
}

/** Tabs are clicked, and walked by arrow keys. */
function mountTabs(tabs, open) {
  for (const [index, button] of tabs.entries()) {
    button.addEventListener("click", () => open(button.dataset.tab));
    button.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: tabs.length - 1, ArrowRight: 1 }[event.key];
      if (!by) return;
      event.preventDefault();
      event.stopPropagation();
      tabs[(index + by) % tabs.length].click();
      tabs[(index + by) % tabs.length].focus();
    });
  }
}

/**
 * The name of the part picked last: Enter keeps it, Escape leaves it as it was.
 * @param {any} name
 * @param {Bench} bench
 */
function mountName(name, bench, redraw) {
  name.addEventListener("change", async () => {
    if (bench.lead) await bench.keep([{ edit: "rename_part", part: bench.lead, name: name.value }]);
    redraw();
  });
  name.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Enter" || event.key === "Escape") {
      if (event.key === "Escape") name.value = bench.part(bench.lead)?.name ?? "";
      name.blur();
    }
  });
}

/**
 * The list of parents. It is filled when it is opened: hundreds of names for every pick would take longer than a frame.
 * @param {any} parent
 * @param {Bench} bench
 */
function mountParents(parent, bench) {
  parent.addEventListener("change", () =>
    bench.keep([{ edit: "join", parts: bench.picked, parent: parent.value || null, frame: bench.at }]),
  );
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
}
