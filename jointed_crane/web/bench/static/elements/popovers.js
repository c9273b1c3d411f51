// Menus that open over a button of the time panel.

/** Lay a popover that opens above the button that opens it; `opened` is called then. */
export function openAbove(button, menu, opened = () => {}) {
  menu.addEventListener("toggle", (event) => {
    if (event.newState !== "open") return;
    const at = button.getBoundingClientRect();
    menu.style.setProperty("left", `${Math.min(at.left, innerWidth - menu.offsetWidth - 8)}px`);
    menu.style.setProperty("top", `${Math.max(at.top - menu.offsetHeight - 4, 8)}px`);
    opened();
  });
}
