// The joint map: pan, zoom and search; the picture itself and its links come from the server.

const view = document.querySelector("[data-map=view]");
const picture = view.querySelector("svg");
const search = document.querySelector("[data-map=search]");

if (picture) {
  const whole = picture.viewBox.baseVal;
  const size = { width: whole.width, height: whole.height };
  let at = { x: 0, y: 0, k: 1 };
  picture.setAttribute("width", "100%");
  picture.setAttribute("height", "100%");
  picture.setAttribute("preserveAspectRatio", "xMidYMid meet");

  const room = () => view.getBoundingClientRect();
  function apply() {
    const { width, height } = room();
    picture.setAttribute("viewBox", `${at.x} ${at.y} ${width / at.k} ${height / at.k}`);
  }
  function fit() {
    const { width, height } = room();
    const k = Math.min(1.4, width / size.width, height / size.height);
    at = { k, x: size.width / 2 - width / k / 2, y: size.height / 2 - height / k / 2 };
    apply();
  }
  /**
   * @param {number} factor
   * @param {number[]} place
   */
  function zoom(factor, [x, y]) {
    const k = Math.min(Math.max(at.k * factor, 0.05), 6);
    at = { k, x: at.x + x / at.k - x / k, y: at.y + y / at.k - y / k };
    apply();
  }
  function pan(dx, dy) {
    at = { ...at, x: at.x - dx / at.k, y: at.y - dy / at.k };
    apply();
  }
  const place = (event) => [event.clientX - room().left, event.clientY - room().top];

  view.addEventListener(
    "wheel",
    (event) => {
      event.preventDefault();
      if (event.shiftKey) pan(-event.deltaY, 0);
      else zoom(Math.exp(-event.deltaY * 0.0015), place(event));
    },
    { passive: false },
  );
  let from = null;
  view.addEventListener("pointerdown", (event) => {
    if (event.button === 0) from = { at: place(event), hasMoved: false };
  });
  addEventListener("pointermove", (event) => {
    if (!from) return;
    const [x, y] = place(event);
    if (!from.hasMoved && Math.hypot(x - from.at[0], y - from.at[1]) < 4) return;
    from.hasMoved = true;
    pan(x - from.at[0], y - from.at[1]);
    from.at = [x, y];
  });
  addEventListener("pointerup", () =>
    setTimeout(() => {
      from = null;
    }),
  );
  // A drag that began on a part pans; only a click follows its link.
  view.addEventListener("click", (event) => from?.hasMoved && event.preventDefault(), { capture: true });
  view.addEventListener("dragstart", (event) => event.preventDefault());

  addEventListener("keydown", (event) => {
    if (event.target.closest("input")) return;
    const acts = {
      ArrowLeft: () => pan(60, 0),
      ArrowRight: () => pan(-60, 0),
      ArrowUp: () => pan(0, 60),
      ArrowDown: () => pan(0, -60),
      "+": () => zoom(1.25, [room().width / 2, room().height / 2]),
      "-": () => zoom(0.8, [room().width / 2, room().height / 2]),
      f: fit,
      "/": () => search.focus(),
      Escape: () => {
        location.href = `/scenes/${view.dataset.scene}`;
      },
    };
    if (!acts[event.key]) return;
    event.preventDefault();
    acts[event.key]();
  });
  document.querySelector("[data-map=fit]").addEventListener("click", fit);
  addEventListener("resize", apply);

  const nodes = [...picture.querySelectorAll("[data-node]")];
  search.addEventListener("input", () => {
    const words = search.value.trim().toLowerCase();
    const isFound = (node) => words && node.dataset.name.toLowerCase().includes(words);
    for (const node of nodes) node.classList.toggle("is-found", Boolean(isFound(node)));
    picture.classList.toggle("is-searched", Boolean(words));
    const first = nodes.find(isFound);
    if (!first) return;
    const { width, height } = room();
    const box = first.getBBox();
    at = { ...at, x: box.x + box.width / 2 - width / at.k / 2, y: box.y + box.height / 2 - height / at.k / 2 };
    apply();
  });
  search.addEventListener("keydown", (event) => {
    const first = picture.querySelector(".is-found");
    if (event.key === "Enter" && first) location.href = first.closest("a").getAttribute("href");
    if (event.key === "Escape") view.focus();
  });
  fit();
}
