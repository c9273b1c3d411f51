// Small words for making SVG elements, and numbers as people read them.

export function svg(name, attributes = {}, ...children) {
  const element = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  element.append(...children);
  return element;
}

/** Have Enter and Space on a drawn element act as on a button. */
export function onPressed(element, act) {
  element.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    event.stopPropagation();
    act(event);
  });
}

/** A number with a true minus sign; trailing zeros only where `digits` are asked for. */
export function readable(value, digits = 3, fixed = false) {
  const text = fixed ? value.toFixed(digits) : String(Number(value.toFixed(digits)));
  return (Number(text) === 0 ? text.replace("-", "") : text).replace("-", "−");
}

/** How many turns an angle is, where it is more than one; else nothing. */
export const turnsText = (degrees) => (Math.abs(degrees) > 360 ? `${readable(degrees / 360, 2)} turns` : "");

/** An angle as the tag beside the ring says it. */
export const turnText = (degrees) => [`${readable(degrees, 1, true)}°`, turnsText(degrees)].filter(Boolean).join(" · ");

/** The brass split pin that marks a pivot. */
export function pin(x, y, { size = 8, isPicked = false, isFaint = false } = {}) {
  const group = svg("g", { transform: `translate(${x} ${y})`, class: isFaint ? "opacity-70" : "" });
  group.append(
    svg("circle", { r: size, class: "fill-brass-light stroke-brass", "stroke-width": isPicked ? 2.4 : 1.5 }),
    svg("path", {
      d: `M${-size * 0.34} ${size * 0.25} L${size * 0.34} ${-size * 0.25}`,
      class: "stroke-brass-ink",
      "stroke-width": 2.2,
      "stroke-linecap": "round",
    }),
  );
  return group;
}

/** The picture of a drawing in the art space of its part; clicks go to what lies behind it. */
export function artImage(drawing) {
  const [left, top, right, bottom] = drawing.box;
  const [x, y] = drawing.registration;
  return svg("image", {
    href: `/art/${drawing.art}`,
    x: left - x,
    y: top - y,
    width: right - left,
    height: bottom - top,
    preserveAspectRatio: "none",
    "pointer-events": "none",
  });
}

/** A drawing in a square round what is painted of it. */
export function thumbnail(drawing, attributes) {
  const [left, top, right, bottom] = drawing.bounds;
  const room = Math.max(right - left, bottom - top, 1);
  return svg(
    "svg",
    { viewBox: `${(left + right - room) / 2} ${(top + bottom - room) / 2} ${room} ${room}`, ...attributes },
    artImage(drawing),
  );
}

/**
 * Whether a pointer is held down on an element. What is made anew under it would lose the click: `after` runs when it has
 * been let go and the click has been heard.
 */
export function heldDown(element, after) {
  let isHeld = false;
  element.addEventListener(
    "pointerdown",
    () => {
      isHeld = true;
    },
    true,
  );
  for (const name of ["pointerup", "pointercancel"])
    addEventListener(name, () => {
      if (!isHeld) return;
      setTimeout(() => {
        isHeld = false;
        after();
      });
    });
  return () => isHeld;
}

/** An act put off to the next frame, once however often it is asked for: several events then cost one drawing. */
export function perFrame(act) {
  let isWaiting = false;
  return () => {
    if (isWaiting) return;
    isWaiting = true;
    requestAnimationFrame(() => {
      isWaiting = false;
      act();
    });
  };
}

export const clamp = (value, low, high) => Math.min(Math.max(value, low), high);
