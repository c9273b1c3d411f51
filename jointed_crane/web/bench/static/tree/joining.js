// Joining parts by dragging their rows: onto a row, or onto the floor of the tree.

/** @param {Bench} bench */
export function mountJoining(root, bench, acts, rowOf) {
  const list = root.querySelector("[data-tree=list]");
  let dragged = [];

  list.addEventListener("dragstart", (event) => {
    const id = rowOf(event)?.dataset.row;
    if (!id) return;
    dragged = bench.picked.includes(id) ? [...bench.picked] : [id];
    event.dataTransfer.setData("text/plain", dragged.map((other) => bench.parts.get(other).name).join(", "));
    event.dataTransfer.effectAllowed = "move";
  });
  function unmark() {
    const signs = ["drop-here", "drop-above", "drop-below"];
    for (const element of root.querySelectorAll(signs.map((sign) => `.${sign}`).join(", "))) element.classList.remove(...signs);
  }
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
}
