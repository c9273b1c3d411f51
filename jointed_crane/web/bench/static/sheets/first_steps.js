// First steps on an empty bench: three of them, ticked off as they are done, and gone for good by one press.

const GONE = "first-steps-gone";

/** @param {Bench} bench */
export function mountFirstSteps(panel, bench) {
  const find = (name) => panel.querySelector(`[data-first=${name}]`);
  let isShown = null; // whether the bench was empty when it was opened
  let isPlaced = false;

  function draw() {
    if (!bench.stage || localStorage.getItem(GONE)) return;
    isShown ??= bench.order.length === 0;
    isPlaced ||= /pivot/i.test(bench.undoLabel ?? "");
    const isTurned = bench.order.some((id) => "turn.z" in bench.part(id).channels);
    const done = { bring: bench.order.length > 0, pivot: isPlaced, turn: isTurned };
    for (const [name, is] of Object.entries(done)) find(name).classList.toggle("is-done", is);
    panel.hidden = !isShown || Object.values(done).every(Boolean);
  }
  find("gone").addEventListener("click", () => {
    localStorage.setItem(GONE, "yes");
    panel.hidden = true;
  });
  bench.on("scene", draw);
}
