// The joint tree: parts below their parents, in front first; finding, joining by dragging, by menu and by keyboard.

import { perFrame, thumbnail } from "./drawing.js";

const KINDS = { art: ["drawing", "bitmap"], made: ["shape", "text"], helper: ["helper"], reference: ["reference"] };

export function mountTree(root, bench, acts, menu) {
  const list = root.querySelector("[data-tree=list]");
  const count = root.querySelector("[data-tree=count]");
  const search = root.querySelector("[data-tree=search]");
  const filter = root.querySelector("[data-tree=filter]");
  const template = root.querySelector("template");
  const folded = new Set();
  const made = new Map();
  let dragged = [];
  let shown = [];
  let unfinished = [];
  let starting = null;
  let finishing = null;
  let marked = [];
  let isClicking = false;

  /** Whether search and filter show a part. */
  function isWanted(part) {
    const words = search.value.trim().toLowerCase();
    if (words && !part.name.toLowerCase().includes(words)) return false;
    const [what, value] = filter.value.split(":");
    if (what === "kind") return KINDS[value].includes(part.kind);
    if (what === "tag") return part.tag === value;
    if (what === "state") return { hidden: part.hidden, locked: part.locked, seated: part.seat, free: part.parent && !part.seat }[value];
    return true;
  }

  function rows() {
    const isSifted = Boolean(search.value.trim() || filter.value);
    const found = [];
    const walk = (parent, depth) => {
      for (const id of bench.children(parent).toReversed()) {
        const hasChildren = bench.children(id).length > 0;
        if (!isSifted || isWanted(bench.parts.get(id))) found.push({ id, depth: isSifted ? 0 : depth, hasChildren: hasChildren && !isSifted });
        if (hasChildren && (isSifted || !folded.has(id))) walk(id, depth + 1);
      }
    };
    walk(null, 0);
    return found;
  }

  function draw() {
    const focused = list.querySelector("[data-row]:focus")?.dataset.row;
    const found = rows();
    const all = bench.order.length;
    count.textContent = !all ? "" : found.length < all && (search.value || filter.value) ? `${found.length} of ${all} parts` : `${all} parts · drag a part onto its parent`;
    const elements = found.map(row);
    // Rows are kept from draw to draw; a tree of hundreds is not built anew for one edit.
    if (elements.length !== shown.length || elements.some((element, index) => element !== shown[index])) {
      list.replaceChildren(...elements);
      finishSoon(elements);
    }
    shown = elements;
    for (const id of made.keys()) if (!bench.parts.has(id)) made.delete(id);
    root.querySelector("[data-tree=empty]").hidden = all > 0;
    if (focused) list.querySelector(`[data-row="${focused}"]`)?.focus();
  }

  /**
   * Rows come in unfinished: the browser lays out only those in sight. The others are finished bit by bit once the tree
   * has been quiet for a while; scrolling then moves a finished picture and does not compose the page anew.
   */
  function finishSoon(elements) {
    for (const element of elements) element.classList.remove("is-finished");
    unfinished = [...elements];
    clearTimeout(starting);
    cancelIdleCallback(finishing);
    starting = setTimeout(finishSome, 400);
  }
  function finishSome() {
    for (const element of unfinished.splice(0, 20)) element.classList.add("is-finished");
    if (unfinished.length) finishing = requestIdleCallback(finishSome);
  }

  function row({ id, depth, hasChildren }) {
    const part = bench.parts.get(id);
    const isFolded = folded.has(id);
    const { isolated } = bench.stage;
    const isFaint = part.hidden || (isolated.length > 0 && !isolated.includes(id));
    const known = made.get(id);
    const state = [part, depth, hasChildren, isFolded, isFaint];
    if (known && known.state.every((value, index) => value === state[index])) return known.element;
    const element = known?.element ?? template.content.firstElementChild.cloneNode(true);
    made.set(id, { element, state });
    const within = (name) => element.querySelector(`[data-tree=${name}]`);
    element.dataset.row = id;
    element.style.setProperty("padding-left", `${8 + depth * 15}px`);
    element.setAttribute("aria-level", depth + 1);
    if (hasChildren) element.setAttribute("aria-expanded", !isFolded);
    else element.removeAttribute("aria-expanded");
    within("name").textContent = part.name;
    within("name").classList.toggle("italic", part.kind === "helper" || part.kind === "reference");
    within("pin").toggleAttribute("hidden", part.kind === "helper" || part.drawings.length > 0);
    within("helper").toggleAttribute("hidden", part.kind !== "helper");
    const badge = part.kind === "reference" ? "reference" : part.drawings.length > 1 ? String(part.drawings.length) : part.kind === "text" ? "text" : "";
    const [drawing] = part.drawings;
    if (known?.state[0].drawings[0] !== drawing) within("picture").replaceChildren(...(drawing ? [thumbnail(drawing, { width: 20, height: 20 })] : []));
    within("picture").hidden = !drawing;
    within("badge").textContent = badge;
    within("badge").hidden = !badge;
    within("badge").title = part.drawings.length > 1 ? `${part.drawings.length} drawings` : "";
    within("seat").toggleAttribute("hidden", !part.seat);
    element.dataset.tag = part.tag;
    const fold = within("fold");
    fold.classList.toggle("invisible", !hasChildren);
    fold.textContent = isFolded ? "+" : "–";
    toggle(within("hide"), part.hidden, `${part.hidden ? "Show" : "Hide"} ${part.name}`);
    toggle(within("lock"), part.locked, `${part.locked ? "Unlock" : "Lock"} ${part.name}`);
    element.classList.toggle("opacity-50", isFaint);
    return element;
  }

  function toggle(button, isOn, label) {
    button.classList.toggle("state-on", isOn);
    button.title = label;
    button.setAttribute("aria-label", label);
    button.setAttribute("aria-pressed", isOn);
  }

  function toggleFold(id) {
    if (!folded.delete(id)) folded.add(id);
    draw();
  }
  function foldAll(isFolding) {
    folded.clear();
    if (isFolding) for (const id of bench.order) if (bench.children(id).length) folded.add(id);
    draw();
  }

  function drawPicked() {
    for (const element of marked) {
      element.setAttribute("aria-selected", false);
      element.tabIndex = -1;
    }
    marked = bench.picked.map((id) => made.get(id)?.element).filter(Boolean);
    for (const element of marked) element.setAttribute("aria-selected", true);
    const lead = shown.includes(marked.at(-1)) ? marked.at(-1) : shown[0];
    if (!lead) return;
    lead.tabIndex = 0;
    if (!marked.includes(lead)) marked.push(lead);
    // A row that was clicked is in sight already; asking for its place would cost a layout.
    if (bench.lead && !isClicking) showLead();
  }
  const showLead = perFrame(() => {
    if (!list.querySelector(":focus")) made.get(bench.lead)?.element.scrollIntoView({ block: "nearest" });
  });

  search.addEventListener("input", draw);
  search.addEventListener("keydown", (event) => {
    event.stopPropagation();
    if (event.key === "Escape") {
      search.value = "";
      draw();
    }
    if (event.key === "ArrowDown" || event.key === "Enter") list.firstElementChild?.focus();
  });
  filter.addEventListener("change", draw);
  root.querySelector("[data-tree=fold-all]").addEventListener("click", () => foldAll(true));
  root.querySelector("[data-tree=unfold-all]").addEventListener("click", () => foldAll(false));

  // Picking

  const rowOf = (event) => event.target.closest("[data-row]");

  list.addEventListener("click", (event) => {
    isClicking = true;
    press(event);
    isClicking = false;
  });
  function press(event) {
    const element = rowOf(event);
    if (!element) return;
    const id = element.dataset.row;
    const button = event.target.closest("button")?.dataset.tree;
    if (button === "fold") return toggleFold(id);
    if (button === "hide") return acts.setState([id], { hidden: !bench.parts.get(id).hidden });
    if (button === "lock") return acts.setState([id], { locked: !bench.parts.get(id).locked });
    if (event.ctrlKey || event.metaKey) return bench.togglePick(id);
    if (event.shiftKey && bench.lead) {
      const ids = [...list.children].map((other) => other.dataset.row);
      const [from, to] = [ids.indexOf(bench.lead), ids.indexOf(id)].sort((a, b) => a - b);
      return bench.pick([...ids.slice(from, to + 1).filter((other) => other !== id), id]);
    }
    bench.pick([id]);
  }
  list.addEventListener("dblclick", (event) => rowOf(event) && !event.target.closest("button") && acts.rename(rowOf(event)));
  list.addEventListener("contextmenu", (event) => {
    const element = rowOf(event);
    if (!element) return;
    event.preventDefault();
    if (!bench.picked.includes(element.dataset.row)) bench.pick([element.dataset.row]);
    menu.openMenu(event.clientX, event.clientY, element);
  });

  list.addEventListener("keydown", (event) => {
    const element = rowOf(event);
    if (!element || event.target.tagName === "INPUT") return;
    const id = element.dataset.row;
    const go = (next) => {
      if (!next) return;
      bench.pick(event.shiftKey ? [...bench.picked.filter((other) => other !== next.dataset.row), next.dataset.row] : [next.dataset.row]);
      drawPicked();
      next.focus();
    };
    const keys = {
      ArrowDown: () => go(element.nextElementSibling),
      ArrowUp: () => go(element.previousElementSibling),
      ArrowRight: () => (folded.has(id) ? toggleFold(id) : go(element.nextElementSibling)),
      ArrowLeft: () => (!folded.has(id) && bench.children(id).length ? toggleFold(id) : go(list.querySelector(`[data-row="${bench.parts.get(id).parent}"]`))),
      "*": () => foldAll(false),
      Enter: () => acts.rename(element),
      F2: () => acts.rename(element),
      ContextMenu: () => menuAt(element),
      F10: () => event.shiftKey && menuAt(element),
    };
    if (!keys[event.key]) return;
    event.preventDefault();
    event.stopPropagation();
    keys[event.key]();
  });
  function menuAt(element) {
    const box = element.getBoundingClientRect();
    menu.openMenu(box.left + 60, box.bottom, element);
  }

  // The part under the pointer is shown on the stage, and the one under the pointer on the stage here

  list.addEventListener("pointerover", (event) => bench.hover(rowOf(event)?.dataset.row ?? null));
  list.addEventListener("pointerleave", () => bench.hover(null));
  let hovered = null;
  function drawHovered() {
    hovered?.classList.remove("is-hovered");
    hovered = made.get(bench.hovered)?.element;
    hovered?.classList.add("is-hovered");
  }

  // Joining by dragging

  list.addEventListener("dragstart", (event) => {
    const id = rowOf(event)?.dataset.row;
    if (!id) return;
    dragged = bench.picked.includes(id) ? [...bench.picked] : [id];
    event.dataTransfer.setData("text/plain", dragged.map((other) => bench.parts.get(other).name).join(", "));
    event.dataTransfer.effectAllowed = "move";
  });
  const unmark = () => root.querySelectorAll(".drop-here, .drop-above, .drop-below").forEach((element) => element.classList.remove("drop-here", "drop-above", "drop-below"));
  /** Onto a row joins; its upper and lower edge mean in front of it and behind it in the painting order. */
  function where(event) {
    const element = rowOf(event);
    if (!element) return { element: root.querySelector("[data-tree=floor]"), sign: "drop-here" };
    const { top, height } = element.getBoundingClientRect();
    const share = (event.clientY - top) / height;
    return { element, id: element.dataset.row, sign: share < 0.2 ? "drop-above" : share > 0.8 ? "drop-below" : "drop-here" };
  }
  root.addEventListener("dragover", (event) => {
    if (!dragged.length) return;
    event.preventDefault();
    event.stopPropagation();
    unmark();
    const { element, sign } = where(event);
    element.classList.add(sign);
  });
  root.addEventListener("dragleave", unmark);
  root.addEventListener("drop", (event) => {
    if (!dragged.length) return;
    event.preventDefault();
    event.stopPropagation();
    unmark();
    const { id = null, sign } = where(event);
    const parts = dragged;
    dragged = [];
    if (id && parts.includes(id)) return;
    if (sign === "drop-here") return acts.join(parts, id, event.shiftKey ? "snapped" : "kept");
    const staying = bench.order.filter((other) => !parts.includes(other));
    const above = sign === "drop-above" ? id : (staying[staying.indexOf(id) - 1] ?? null);
    bench.keep([{ edit: "place_in_order", parts, above }]);
  });
  root.addEventListener("dragend", () => {
    dragged = [];
    unmark();
  });

  bench.on("scene", draw);
  bench.on("picked scene", drawPicked);
  bench.on("hovered", drawHovered);
}
