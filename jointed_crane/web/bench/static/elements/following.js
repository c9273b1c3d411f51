// Presses that are followed until the pointer is let go; Escape, or a pointer that is taken away, ends them with nothing kept.

/**
 * Follow the pointer from a press on. `holder` catches it, `move(event)` hears where it goes, and at the end
 * `done(event, isKept)` hears whether it was let go.
 * @param {PointerEvent} event
 * @param {{ holder: Element, move: (event: PointerEvent) => void, done?: (event: any, isKept: boolean) => void }} parts
 */
export function following(event, { holder, move, done = () => {} }) {
  holder.setPointerCapture(event.pointerId);
  const ended = (isKept) => (last) => {
    holder.removeEventListener("pointermove", move);
    holder.removeEventListener("pointerup", end);
    holder.removeEventListener("pointercancel", stop);
    removeEventListener("keydown", onEscape, true);
    if (holder.hasPointerCapture(event.pointerId)) holder.releasePointerCapture(event.pointerId);
    done(last, isKept);
  };
  const [end, stop] = [ended(true), ended(false)];
  const onEscape = (key) => {
    if (key.key !== "Escape") return;
    key.stopPropagation();
    stop(key);
  };
  holder.addEventListener("pointermove", move);
  holder.addEventListener("pointerup", end);
  holder.addEventListener("pointercancel", stop);
  addEventListener("keydown", onEscape, true);
}

/**
 * Keep a press to the element that it was on: nobody else hears it, and nothing is focused or selected by it.
 * @param {Event} event
 */
export function hold(event) {
  event.preventDefault();
  event.stopPropagation();
}

/**
 * Follow one thing that is dragged: edits are shown meanwhile, kept at the end, and left by Escape. `edits(dx, dy, event)`
 * says what the way so far means, or null; `done(isKept)` is called at the end.
 * @param {PointerEvent} event
 * @param {{
 *   holder: Element,
 *   previewer: Previewer,
 *   edits: (dx: number, dy: number, event: PointerEvent) => Edit[] | null,
 *   done?: (isKept: boolean) => void,
 * }} parts
 */
export function follow(event, { holder, previewer, edits, done = () => {} }) {
  hold(event);
  const [x, y] = [event.clientX, event.clientY];
  let last = null;
  following(event, {
    holder,
    move(now) {
      last = edits(now.clientX - x, now.clientY - y, now);
      if (last) previewer.ask(last);
      else previewer.cancel();
    },
    async done(_, isKept) {
      if (!isKept) previewer.cancel();
      done(Boolean(isKept && last && (await previewer.keep(last))));
    },
  });
}
