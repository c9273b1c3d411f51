// The joint tree: parts below their parents, in front first; finding, joining by dragging, by menu and by keyboard.

import { perFrame } from "../elements/drawing.js";
import { finishSoon } from "./finishing.js";
import { mountJoining } from "./joining.js";
import { mountPicking } from "./picking.js";
import { makeTreeRows } from "./tree_rows.js";

const KINDS = {
  art: ["drawing", "bitmap"],
  made: ["shape", "text"],
  helper: ["helper"],
  lever: ["lever"],
  camera: ["camera"],
  reference: ["reference"],
};

/** @param {Bench} bench */
export function mountTree(root, bench, acts, menu) {
  const list = root.querySelector("[data-tree=list]");
  const count = root.querySelector("[data-tree=count]");
  const search = root.querySelector("[data-tree=search]");
  const filter = root.querySelector("[data-tree=filter]");
  const folded = new Set();
  const made = new Map();
  const row = makeTreeRows(bench, root.querySelector("template"), made, folded);
  const rowOf = (event) => event.target.closest("[data-row]");
  let shown = [];
  let marked = [];

  function draw() {
    const focused = list.querySelector("[data-row]:focus")?.dataset.row;
    const result = listed({ bench, folded, search, filter });
    const all = bench.order.length;
    count.textContent = countWords(result.length, all, search.value || filter.value);
    const elements = result.map(row);
    // Rows are kept from draw to draw; a tree of hundreds is not built anew for one edit.
    if (elements.length !== shown.length || elements.some((element, index) => element !== shown[index])) {
      list.replaceChildren(...elements);
      finishSoon(elements);
    }
    shown = elements;
    for (const id of made.keys()) if (!bench.parts.has(id)) made.delete(id);
    root.querySelector("[data-tree=empty]").hidden = all > 0;
    root.querySelector("[data-tree=none]").hidden = all === 0 || shown.length > 0;
    if (focused) list.querySelector(`[data-row="${focused}"]`)?.focus();
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
    if (bench.lead && !picking.isClicking) showLead();
  }
  const showLead = perFrame(() => {
    if (!list.querySelector(":focus")) made.get(bench.lead)?.element.scrollIntoView({ block: "nearest" });
  });

  mountSifting(root, { search, filter, list, draw });
  root.querySelector("[data-tree=fold-all]").addEventListener("click", () => foldAll(true));
  root.querySelector("[data-tree=unfold-all]").addEventListener("click", () => foldAll(false));

  const picking = mountPicking({ list, bench, acts, menu, folded, rowOf, toggleFold, foldAll, drawPicked });
  mountJoining(root, bench, acts, rowOf);

  mountHovering(list, bench, made, rowOf);
  bench.on("scene", draw);
  bench.on("picked scene", drawPicked);
}

/** Words and a choice say which parts are listed; a button shows all again where none is. */
function mountSifting(root, { search, filter, list, draw }) {
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
  root.querySelector("[data-tree=show-all]").addEventListener("click", () => {
    search.value = filter.value = "";
    draw();
    search.focus();
  });
}

/**
 * The rows that are listed: {id, depth, hasChildren}; all that search and filter want, or what is not folded away.
 * @param {Shared} shared
 */
function listed({ bench, folded, search, filter }) {
  const isSifted = Boolean(search.value.trim() || filter.value);
  const result = [];
  const walk = (parent, depth) => {
    for (const id of bench.children(parent).toReversed()) {
      const hasChildren = bench.children(id).length > 0;
      if (!isSifted || isWanted({ bench, search, filter }, bench.parts.get(id)))
        result.push({ id, depth: isSifted ? 0 : depth, hasChildren: hasChildren && !isSifted });
      if (hasChildren && (isSifted || !folded.has(id))) walk(id, depth + 1);
    }
  };
  walk(null, 0);
  return result;
}

/** How many parts there are, or how many of them are found. */
function countWords(result, all, isSifted) {
  if (!all) return "";
  if (result < all && isSifted) return `${result} of ${all} parts`;
  return all === 1 ? "1 part" : `${all} parts · drag a part onto its parent`;
}

/**
 * The part under the pointer is shown on the stage, and the one under the pointer on the stage here.
 * @param {any} list
 * @param {Bench} bench
 */
function mountHovering(list, bench, made, rowOf) {
  let hovered = null;
  list.addEventListener("pointerover", (event) => bench.hover(rowOf(event)?.dataset.row ?? null));
  list.addEventListener("pointerleave", () => bench.hover(null));
  bench.on("hovered", () => {
    hovered?.classList.remove("is-hovered");
    hovered = made.get(bench.hovered)?.element;
    hovered?.classList.add("is-hovered");
  });
}

/**
 * Whether search and filter show a part.
 * @param {Shared} shared
 */
function isWanted({ bench, search, filter }, part) {
  const words = search.value.trim().toLowerCase();
  // A part is found by its own name and by the names of what drives it.
  const names = [part, ...part.links.map(({ source }) => bench.parts.get(source))].map((result) => result?.name.toLowerCase() ?? "");
  if (words && !names.some((name) => name.includes(words))) return false;
  const [what, value] = filter.value.split(":");
  if (what === "kind") return KINDS[value].includes(part.kind);
  if (what === "tag") return part.tag === value;
  if (what === "state")
    return {
      hidden: part.hidden,
      locked: part.locked,
      seated: part.seat,
      driven: part.links.length > 0,
      free: part.parent && !part.seat,
    }[value];
  return true;
}
