"""Two foreign players of vector animation JSON: one in the tests' browser, one in Python."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
from rlottie_python import LottieAnimation

VENDOR = Path(__file__).parents[1] / "vendor"
PLAYER = VENDOR / "lottie-web" / "lottie_light.min.js"
_LOAD = """
(text) => {
  document.body.replaceChildren(document.createElement("div"));
  const container = document.body.firstChild;
  const animationData = JSON.parse(text);
  Object.assign(document.body.style, { margin: 0 });
  Object.assign(container.style, { width: animationData.w + "px", height: animationData.h + "px" });
  const settings = { container, renderer: "svg", loop: false, autoplay: false, animationData };
  window.player = lottie.loadAnimation(settings);
}
"""
#: Name, matrix on the stage, total opacity and whether it is painted at all, of each layer that paints.
_LAYERS = """
(frame) => {
  player.goToAndStop(frame, true);
  const opacity = (element) => (element instanceof SVGElement
    ? Number(element.getAttribute("opacity") ?? 1) * opacity(element.parentNode) : 1);
  const shown = (element) => getComputedStyle(element).display !== "none";
  return player.renderer.elements.filter((one) => one && one.layerElement).map((one) => {
    const { a, b, c, d, e, f } = one.layerElement.getCTM();
    const paints = [...one.layerElement.querySelectorAll("path")].map((path) => opacity(path));
    return [one.data.nm, [a, b, c, d, e, f], opacity(one.layerElement), shown(one.layerElement), paints];
  });
}
"""


class BrowserPlayer:
    """The player that draws with the browser's own SVG; its matrices are exact."""

    def __init__(self, page: Any, data: bytes) -> None:
        self._page = page
        page.goto("about:blank")
        page.add_script_tag(content=PLAYER.read_text())
        page.evaluate(_LOAD, data.decode())

    def layers(self, frame: float) -> list[tuple[str, list[float], float, bool]]:
        """What paints: name, matrix as SVG writes it, opacity, and whether it is there."""
        return [tuple(layer[:4]) for layer in self._page.evaluate(_LAYERS, frame)]


def paths_in_python(data: bytes, frame: int) -> dict[str, list[np.ndarray]]:
    """The points of all paths that the player in Python draws at a frame, px on the stage, by the layer's name."""
    document = json.loads(data)
    animation = LottieAnimation.from_data(data.decode())
    tree = animation.lottie_animation_render_tree(frame, document["w"], document["h"])
    result: dict[str, list[np.ndarray]] = {}

    def walk(layer: Any) -> None:
        for at in range(layer.mNodeList.size):
            path = layer.mNodeList.ptr[at].contents.mPath
            points = np.array(path.ptPtr[: path.ptCount]).reshape(-1, 2)
            result.setdefault((layer.keypath or b"").decode(), []).append(points)
        for at in range(layer.mLayerList.size):
            walk(layer.mLayerList.ptr[at].contents)

    walk(tree)
    return result
