// A sheet whose edits are shown while it is open: the server says what they would change, or why not.

/** Words side by side, as an item of a sheet's list. */
export function line(words) {
  const row = document.createElement("li");
  row.className = "grid grid-cols-2 gap-2";
  for (const [index, text] of words.entries()) {
    const column = document.createElement("span");
    column.className = index ? "text-mute" : "truncate";
    column.textContent = text;
    row.append(column);
  }
  return row;
}

/**
 * `edits()` says what the sheet stands for, `lines(answer)` what it lists of it as pairs of words. Returns what opens the
 * sheet, and what asks anew. What adds parts is not `isShown`: their pictures are not stored yet.
 * @param {any} dialog
 * @param {Bench} bench
 */
export function mountPreviewed(dialog, bench, { edits, lines, isShown = true }) {
  const form = dialog.querySelector("form");
  const problem = dialog.querySelector("[data-sheet=problem]");
  const list = dialog.querySelector("[data-sheet=list]");
  let asked = 0;

  async function preview() {
    asked += 1;
    const number = asked;
    const isOver = () => number !== asked || !dialog.open;
    try {
      const answer = await bench.preview(edits());
      if (isOver()) return;
      if (isShown) bench.show(answer);
      list.replaceChildren(...lines(answer).map(line));
      problem.hidden = true;
    } catch (error) {
      if (error.status === undefined) throw error;
      if (isOver()) return;
      problem.textContent = error.message;
      problem.hidden = false;
    }
  }

  form.addEventListener("input", preview);
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    if (await bench.keep(edits())) dialog.close();
  });
  dialog.addEventListener("close", () => {
    asked += 1;
    bench.show(null);
  });
  return {
    preview,
    open() {
      dialog.showModal();
      return preview();
    },
  };
}
