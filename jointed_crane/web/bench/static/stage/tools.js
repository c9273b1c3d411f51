// The pointer on the stage: what a press begins, dragging, hovering and the wheel.

import { following } from "../elements/following.js";
import { makeDrags } from "./drags/drags.js";
import { makeHovering, partUnder } from "./hovering.js";

const SLACK = 3;

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function mountTools(root, over, bench, view, drag, hint, handles) {
  const drags = makeDrags({ bench, view, handles, over, drag });
  const { boxDrag, sizeDrag, nodeDrag, zeroDrag, panDrag, roundDrag, axisDrag, moveDrag } = drags;
  const { spotDrag, newEyelet, newStand, joinDrag, turnDrag, scaleDrag, pivotDrag } = drags;
  const hover = makeHovering(root, bench, view, hint);
  const pressing = makePressing(root, bench, view, drag);
  const { begin } = pressing;

  root.addEventListener("pointerdown", (event) => {
    if (pressing.isDragging) return;
    bench.setActive(view.index);
    root.focus({ preventScroll: true });
    const at = view.at(event);
    if (event.button === 1) return begin(event, view.canGoRound && !event.shiftKey ? roundDrag(at) : panDrag(at));
    if (event.button !== 0) return;
    if (bench.movesCamera && bench.cameraOn && view.look.side === "stage") return begin(event, drags.cameraDrag(at));
    const target = event.target;
    const under = event.ctrlKey ? partUnder(event) : null;
    if (under) return begin(event, joinDrag(under, at));
    if (target.dataset.axis) return begin(event, axisDrag(at, target.dataset));
    if (target.dataset.ring) return begin(event, { ...turnDrag(at, target.dataset.turns), again: () => pressThrough(bench, event) });
    if (target.dataset.scale) return begin(event, scaling(bench, hint, { scaleDrag, sizeDrag }, at, target.dataset.scale));
    if (target.dataset.pathNode) return begin(event, nodeDrag(target.dataset));
    if (target.closest("[data-zero]")) return begin(event, zeroDrag(bench.lead, at));
    const goal = target.closest("[data-goal]")?.dataset.goal;
    if (goal && bench.tool === "move") return begin(event, moveDrag(at, [goal]));
    const spot = spotOf(target);
    if (spot && (spot.mark || bench.tool === "eyelet" || bench.tool === "move")) {
      bench.pickSpot(spot);
      return begin(event, spotDrag(spot, at));
    }
    const pinned = target.closest("[data-pin]")?.dataset.pin;
    if (bench.tool === "pivot" && pinned) {
      bench.pick([pinned]);
      return begin(event, pivotDrag(pinned, at));
    }
    if (bench.tool === "helper") return addHelper(at);
    if (bench.tool === "mark") return hint.addMark(view.toStage(at), view.through);
    if (bench.tool === "draw") return begin(event, hint.drawDrag(at, event));
    pressPart(event, at, target.dataset.pick ?? null);
  });

  function pressPart(event, at, id) {
    if (!id) return begin(event, boxDrag(at, event.shiftKey));
    if (event.shiftKey) return bench.togglePick(id);
    const wasAlone = bench.picked.length === 1 && bench.lead === id;
    if (!bench.picked.includes(id)) bench.pick([id]);
    else bench.pick([...bench.picked.filter((other) => other !== id), id]);
    if (bench.tool === "eyelet") return begin(event, newEyelet(id, at));
    if (bench.tool === "stand") return bench.isMotion ? begin(event, newStand(id, at)) : hint.toMotion();
    const again = wasAlone ? () => pickBeneath(bench, event, id) : undefined;
    if (bench.tool === "turn") return begin(event, { ...turnDrag(at), again });
    if (bench.tool === "move") return begin(event, { ...moveDrag(at), again });
    if (bench.tool === "pivot" && bench.keeps === "pivot") return begin(event, pivotDrag(id, at));
  }

  root.addEventListener("pointermove", (event) => {
    if (!pressing.isDragging) hover(event, view.at(event));
  });

  function addHelper(at) {
    const place = view.toStage(at);
    bench.setTool("move");
    hint.addHelper(place, bench.picked, "Helper", view.through);
  }

  mountWheel(root, view);
}

/**
 * What a press has begun follows the pointer, once that has gone further than a hand shakes.
 * @param {any} root
 * @param {Bench} bench
 * @param {View} view
 */
function makePressing(root, bench, view, drag) {
  const pressing = { isDragging: false, begin };
  return pressing;

  function begin(event, made) {
    if (!made) return;
    event.preventDefault();
    const start = view.at(event);
    let [hasMoved, edits] = [false, null];
    pressing.isDragging = true;
    following(event, {
      holder: root,
      move(now) {
        const at = view.at(now);
        if (!hasMoved && Math.hypot(at[0] - start[0], at[1] - start[1]) < SLACK) return;
        hasMoved = true;
        drag.at = at;
        const meant = made.move(at, now);
        if (!meant) return;
        edits = meant;
        bench.previewer.ask(edits);
        drag.redraw();
      },
      done(last, isKept) {
        pressing.isDragging = false;
        made.undo?.();
        drag.text = "";
        drag.together = null;
        drag.redraw();
        if (!isKept) return bench.previewer.cancel();
        if (made.drop) return made.drop(last, hasMoved);
        if (!hasMoved && made.again) return made.again();
        if (!hasMoved && made.tap) bench.previewer.keep(made.tap());
        if (hasMoved && edits) bench.previewer.keep(edits);
      },
    });
  }
}

/**
 * The drag of a scale handle. Of a helper that carries parts it is asked once what is meant, before anything is scaled.
 * @param {Bench} bench
 */
function scaling(bench, hint, { scaleDrag, sizeDrag }, at, axes) {
  const lead = bench.part(bench.lead);
  if (lead.kind !== "helper" || !bench.children(lead.id).length) return scaleDrag(at, axes);
  const meant = hint.scalingMeant();
  if (meant === null) return void hint.askScaling(lead);
  return meant === "size" ? sizeDrag(lead, at) : scaleDrag(at, axes);
}

/**
 * A press on the ring without a turn is meant for what lies under it, with Shift to be added to what is picked.
 * @param {Bench} bench
 */
function pressThrough(bench, event) {
  const [first] = partsAt(event);
  if (first && event.shiftKey) bench.togglePick(first);
  else if (first) bench.pick([first]);
}

/**
 * Pressed once more on the same place: what lies beneath, and after the lowest the uppermost again.
 * @param {Bench} bench
 */
function pickBeneath(bench, event, id) {
  const ids = partsAt(event);
  const next = ids[(ids.indexOf(id) + 1) % ids.length];
  if (next && next !== id) bench.pick([next]);
}

/**
 * The wheel zooms, with Shift it pans.
 * @param {any} root
 * @param {View} view
 */
function mountWheel(root, view) {
  root.addEventListener(
    "wheel",
    (event) => {
      event.preventDefault();
      if (event.shiftKey) return view.pan(-event.deltaY, -event.deltaX);
      view.zoom(Math.exp(-event.deltaY * 0.0015), view.at(event));
    },
    { passive: false },
  );
}

/** The parts that are seen under the pointer, the uppermost first. */
export function partsAt({ clientX, clientY }) {
  const result = document.elementsFromPoint(clientX, clientY).map((/** @type {any} */ one) => one.dataset?.pick);
  return [...new Set(result.filter(Boolean))];
}

/** The mark or eyelet that an element stands for. */
function spotOf(target) {
  const { mark } = target.closest("[data-mark]")?.dataset ?? {};
  const { eyelet, owner } = target.closest("[data-eyelet]")?.dataset ?? {};
  return mark ? { mark } : eyelet ? { part: owner, eyelet } : null;
}
