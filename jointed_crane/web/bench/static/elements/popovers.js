// Menus that open over a button of the time panel.

/**
 * Lay a popover that opens above the button that opens it; `opened` is called then. What is given opens it above a place on
 * the screen.
 */
export function openAbove(button, menu, opened = () => {}) {
  let place = null;
  // It is told that it has opened a moment after it has; until then it lies anywhere and says what was so before.
  menu.addEventListener("beforetoggle", (event) => event.newState === "open" && menu.style.setProperty("visibility", "hidden"));
  menu.addEventListener("toggle", (event) => {
    if (event.newState !== "open") return;
    menu.style.removeProperty("visibility");
    opened();
    const at = place ?? button.getBoundingClientRect();
    place = null;
    menu.style.setProperty("left", `${Math.min(at.left, innerWidth - menu.offsetWidth - 8)}px`);
    menu.style.setProperty("top", `${Math.max(at.top - menu.offsetHeight - 4, 8)}px`);
  });
  return (left, top) => {
    place = { left, top };
    menu.showPopover();
  };
}
