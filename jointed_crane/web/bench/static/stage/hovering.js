// Hovering says what a click or a drag will do, how near the stage is seen, and where the pointer is on it.

import { readable } from "../elements/drawing.js";

/** The part whose picture lies under the pointer, also under rings and handles; null where there is none. */
export function partUnder(event) {
  const pictures = document.elementsFromPoint(event.clientX, event.clientY).filter((element) => /** @type {any} */ (element).dataset?.pick);
  return /** @type {any} */ (pictures[0])?.dataset.pick ?? null;
}

/**
 * @param {Bench} bench
 * @param {View} view
 */
export function makeHovering(root, bench, view, hint) {
  let said = "";
  let pointer = null;

  function hover(event, at) {
    const target = event.target;
    const id = target.dataset?.pick ?? target.closest?.("[data-pin]")?.dataset.pin ?? null;
    bench.hover(target.dataset?.pick ?? null);
    const name = id && bench.part(id)?.name;
    const words = {
      move: name && `${name}: click picks, a drag moves it`,
      turn: name && `${name}: a drag turns it about its pivot`,
      scale: name && `${name}: click shows its handles`,
      pivot: name && (bench.keeps === "art" ? `${name}: drag its pin, the art stays` : `${name}: drag the art, the pin stays`),
      helper: "Click places a helper here",
      eyelet: name ? `${name}: click adds an eyelet here` : "Click a part to add an eyelet, drag a ring to move it",
      mark: "Click places a mark here",
      draw: hint.drawWords(),
      stand: name
        ? `${name}: click lets it stand on this point from frame ${bench.frame} on`
        : "Click the point that a part is to stand on",
    };
    let text = words[bench.tool];
    if (target.dataset?.ring) text = `Drag turns ${bench.part(target.dataset.ring).name}; Shift in steps of 15°, Alt finely`;
    if (target.dataset?.pathNode)
      text = target.dataset.pathNode === "point" ? "Drag moves the node" : "Drag bends the path; Alt leaves the handle across alone";
    if (target.closest?.("[data-zero]"))
      text = bench.keeps === "art" ? "Registration: a drag moves it, the art stays" : "Registration: a drag slides the art under it";
    if (target.dataset?.scale)
      text = { x: "Drag scales along x", y: "Drag scales along y", both: "Drag scales along both" }[target.dataset.scale];
    const under = event.ctrlKey ? partUnder(event) : null;
    if (under) text = `${bench.part(under).name}: drag the line to its parent; Shift snaps it there`;
    said = text || "";
    pointer = at;
    sayPlace();
  }

  /** How near the stage is seen, and where the pointer is on it. */
  function sayPlace() {
    const [x, y] = pointer ? view.toStage(pointer).map((value) => readable(value, 1)) : [];
    hint.say(said, `${readable(view.k * 100, 0)} %${pointer ? ` · x ${x} y ${y}` : ""}`);
  }
  view.on(sayPlace);
  bench.on("scene", sayPlace);

  root.addEventListener("pointerleave", () => {
    bench.hover(null);
    said = "";
    pointer = null;
    sayPlace();
  });

  return hover;
}
