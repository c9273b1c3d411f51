// Naming parts in their rows of the tree: one, or one after the other, each lit on the stage while its name is typed.

/**
 * What names the part of a row; the pencil over the tree goes on from part to part, also by pressing them in the picture.
 * @param {Bench} bench
 */
export function makeNaming(root, bench, keep) {
  const list = root.querySelector("[data-tree=list]");
  const pencil = root.querySelector("[data-tree=pencil]");
  const rowOf = (id) => list.querySelector(`[data-row="${id}"]`);
  let isGoingOn = false;
  let isTyping = false;

  /** Type a name over the one that stands in a row: Enter keeps it, Tab goes on to the next row, Escape leaves it. */
  function rename(element) {
    const label = element.querySelector("[data-tree=name]");
    const id = element.dataset.row;
    const old = bench.parts.get(id).name;
    const field = document.createElement("input");
    field.className = "text-field h-6 min-w-0 px-1";
    field.value = old;
    field.setAttribute("aria-label", "New name");
    label.replaceChildren(field);
    element.draggable = false;
    element.scrollIntoView({ block: "nearest" });
    field.select();
    isTyping = true;
    const done = (keeps, step = 0) => {
      if (!isTyping || !field.isConnected) return;
      isTyping = false;
      const name = field.value.trim();
      label.textContent = old;
      element.draggable = true;
      const beside = step > 0 ? element.nextElementSibling : step < 0 ? element.previousElementSibling : null;
      const next = beside?.dataset.row;
      if (!next) element.focus();
      const kept = keeps && name && name !== old ? keep("rename_part", { part: id, name }) : null;
      if (next) goTo(next, kept);
    };
    field.addEventListener("keydown", (event) => {
      event.stopPropagation();
      if (event.key === "Enter") done(true, isGoingOn ? 1 : 0);
      if (event.key === "Escape") {
        goOn(false);
        done(false);
      }
      if (event.key !== "Tab") return;
      event.preventDefault();
      done(true, event.shiftKey ? -1 : 1);
    });
    field.addEventListener("dblclick", (event) => event.stopPropagation());
    field.addEventListener("blur", () => done(true));
  }

  /** Name another part, once the name before is kept: that draws the row anew. */
  async function goTo(id, kept) {
    await kept;
    if (!rowOf(id)) return;
    isTyping = true; // what is picked now is being named already
    bench.pick([id]);
    rename(rowOf(id));
  }

  function goOn(isOn) {
    isGoingOn = isOn;
    pencil.setAttribute("aria-pressed", String(isOn));
  }
  pencil.addEventListener("click", () => {
    goOn(!isGoingOn);
    const first = bench.lead ?? list.firstElementChild?.dataset.row;
    if (isGoingOn && first) goTo(first, null);
  });
  bench.on("picked", () => {
    if (!isGoingOn || isTyping || bench.picked.length !== 1) return;
    const { lead } = bench;
    // The press that picked it is still going on, and takes the focus at its end.
    setTimeout(() => isGoingOn && !isTyping && bench.lead === lead && rowOf(lead) && rename(rowOf(lead)));
  });

  return { rename };
}
