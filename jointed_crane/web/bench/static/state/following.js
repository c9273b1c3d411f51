// A press on one thing that is dragged until it is let go: edits are shown meanwhile, kept at the end, and left by Escape.

/**
 * Follow the pointer from a press on. `holder` catches the pointer; `edits(dx, dy, event)` says what the way so far means,
 * or null; `done(isKept)` is called at the end.
 */
export function follow(event, { holder, previewer, edits, done = () => {} }) {
  event.preventDefault();
  event.stopPropagation();
  const [x, y] = [event.clientX, event.clientY];
  holder.setPointerCapture(event.pointerId);
  let last = null;
  const move = (now) => {
    last = edits(now.clientX - x, now.clientY - y, now);
    if (last) previewer.ask(last);
    else previewer.cancel();
  };
  const ended = (isKept) => async () => {
    holder.removeEventListener("pointermove", move);
    holder.removeEventListener("pointerup", end);
    holder.removeEventListener("pointercancel", stop);
    removeEventListener("keydown", onEscape, true);
    if (!isKept) previewer.cancel();
    done(Boolean(isKept && last && (await previewer.keep(last))));
  };
  const [end, stop] = [ended(true), ended(false)];
  const onEscape = (key) => {
    if (key.key !== "Escape") return;
    key.stopPropagation();
    stop();
  };
  holder.addEventListener("pointermove", move);
  holder.addEventListener("pointerup", end);
  holder.addEventListener("pointercancel", stop);
  addEventListener("keydown", onEscape, true);
}
