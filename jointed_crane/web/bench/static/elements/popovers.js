// Menus that open over a button of the time panel.

/**
 * Lay a popover that opens above the button that opens it; `opened` is called then. What is given opens it above a place on
 * the screen.
 */
export function openAbove(button, menu, opened = () => {}) {
  let place = null;
  menu.addEventListener("toggle", (event) => {
    if (event.newState !== "open") return;
    const at = place ?? button.getBoundingClientRect();
    place = null;
    menu.style.setProperty("left", `${Math.min(at.left, innerWidth - menu.offsetWidth - 8)}px`);
    menu.style.setProperty("top", `${Math.max(at.top - menu.offsetHeight - 4, 8)}px`);
    opened();
  });
  return (left, top) => {
    place = { left, top };
    menu.showPopover();
  };
}
