// Picking, folding and naming in the tree, by mouse and by keyboard.

/**
 * Mounts it; the answer says whether a click is being dealt with just now.
 * @param {Shared} shared
 */
export function mountPicking({ list, bench, acts, menu, folded, rowOf, toggleFold, foldAll, drawPicked }) {
  const picking = { isClicking: false };

  list.addEventListener("click", (event) => {
    picking.isClicking = true;
    press(event);
    picking.isClicking = false;
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
    if (!element || event.target.tagName === "INPUT" || event.ctrlKey || event.metaKey) return;
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
      ArrowLeft: () =>
        !folded.has(id) && bench.children(id).length
          ? toggleFold(id)
          : go(list.querySelector(`[data-row="${bench.parts.get(id).parent}"]`)),
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

  return picking;
}
