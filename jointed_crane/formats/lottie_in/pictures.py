"""Compositions that stand still, and what layers show, as drawings."""

from __future__ import annotations

import base64
import binascii
import re
from collections.abc import Mapping
from typing import Any

import numpy as np
from lxml import etree

from jointed_crane.formats.lottie_in.properties import Unreadable, number
from jointed_crane.formats.lottie_in.shapes import (
    Floats,
    Sketch,
    contour_of,
    matrix_of,
    path_data,
    shape_elements,
    svg_element,
)
from jointed_crane.formats.moving.lottie_words import IMAGE, PRECOMPOSED, SHAPES, SOLID
from jointed_crane.formats.svg.tags import SVG

_COLOUR = re.compile(r"#[0-9a-fA-F]{6}")
_PICTURE = re.compile(r"data:(image/(?:png|jpeg|jpg|webp));base64,", re.I)
#: Compositions lie in each other no deeper than this.
DEEPEST = 20


def moves(value: Any) -> bool:
    """Whether anything in some JSON has keys, or appears and goes."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            keys = one.get("k")
            if isinstance(keys, list) and keys and isinstance(keys[0], dict) and "t" in keys[0]:
                return True
            waiting += one.values()
        elif isinstance(one, list):
            waiting += one
    return False


class Contents:
    """What layers show, as elements of drawings; `assets` are the file's, by their ids."""

    def __init__(self, assets: Mapping[str, dict[str, Any]]) -> None:
        self.assets = assets

    def drawing(self, elements: list[etree._Element], drawn: Sketch, size: tuple[float, float]) -> bytes | None:
        """Elements as a drawing of its own in which art space is the px of the layer; None without any."""
        if not elements:
            return None
        root = etree.Element(f"{{{SVG}}}svg", nsmap={None: SVG})
        root.set("width", f"{size[0]:.10g}")
        root.set("height", f"{size[1]:.10g}")
        if drawn.defs:
            defs = etree.SubElement(root, f"{{{SVG}}}defs")
            defs.extend(drawn.defs)
        root.extend(elements)
        return etree.tostring(root, encoding="utf-8")

    def shown(self, layer: Mapping[str, Any], drawn: Sketch, depth: int = 0) -> list[etree._Element]:
        """What a layer shows in its own space, from back to front, its masks applied."""
        kind = layer.get("ty")
        if kind == SHAPES:
            elements = shape_elements(layer.get("shapes"), drawn)
        elif kind == SOLID:
            colour = str(layer.get("sc"))
            if not _COLOUR.fullmatch(colour):
                raise Unreadable("its colour is missing")
            size = {"width": number(layer.get("sw")), "height": number(layer.get("sh"))}
            elements = [svg_element("rect", fill=colour, **size)]
        elif kind == IMAGE:
            elements = self._image(layer)
        elif kind == PRECOMPOSED:
            elements = self._composition(self.layers_of(layer), drawn, depth + 1)
        else:
            return []
        return self._masked(layer, elements, drawn)

    def layers_of(self, layer: Mapping[str, Any]) -> list[Any]:
        """The layers of the composition that a layer shows."""
        asset = self.assets.get(str(layer.get("refId")), {})
        layers = asset.get("layers")
        if not isinstance(layers, list):
            raise Unreadable("the composition it shows is missing")
        return layers

    def picture(self, layer: Mapping[str, Any]) -> tuple[bytes, tuple[float, float]]:
        """The picture that a layer shows, and the size it is shown in, px."""
        asset = self.assets.get(str(layer.get("refId")), {})
        text = str(asset.get("p", ""))
        told = _PICTURE.match(text)
        if told is None:
            raise Unreadable("its picture is not in the file")
        try:
            data = base64.b64decode(text[told.end() :], validate=True)
        except (binascii.Error, ValueError):
            raise Unreadable("its picture is damaged") from None
        return data, (number(asset.get("w", 0)), number(asset.get("h", 0)))

    def _image(self, layer: Mapping[str, Any]) -> list[etree._Element]:
        self.picture(layer)
        asset = self.assets[str(layer.get("refId"))]
        size = {"width": number(asset.get("w", 0)), "height": number(asset.get("h", 0))}
        return [svg_element("image", href=asset["p"], preserveAspectRatio="xMidYMid slice", **size)]

    def _composition(self, layers: list[Any], drawn: Sketch, depth: int) -> list[etree._Element]:
        """Layers that stand still, from back to front."""
        if depth > DEEPEST:
            raise Unreadable(f"compositions lie more than {DEEPEST} deep in each other")
        known = [layer for layer in layers if isinstance(layer, dict)]
        by_number = {layer.get("ind"): layer for layer in known}
        result: list[etree._Element] = []
        for place, layer in enumerate(known):
            is_there = number(layer.get("ip", 0)) <= drawn.time < number(layer.get("op", 1e9))
            if layer.get("td") or layer.get("hd") or not is_there:
                continue
            whole = self._whole(layer, by_number, drawn, depth)
            if layer.get("tt"):
                matte = by_number.get(layer.get("tp")) if "tp" in layer else (known[place - 1] if place else None)
                if matte is None or layer["tt"] not in (1, 3):
                    drawn.say("inverted mattes")
                else:
                    mask = svg_element("mask", maskUnits="userSpaceOnUse", x=-1e5, y=-1e5, width=2e5, height=2e5)
                    mask.set("style", f"mask-type:{'alpha' if layer['tt'] == 1 else 'luminance'}")
                    mask.append(self._whole(matte, by_number, drawn, depth))
                    holder = svg_element("g", mask=drawn.named(mask))
                    holder.append(whole)
                    whole = holder
            result.append(whole)
        return result[::-1]

    def _whole(
        self, layer: Mapping[str, Any], by_number: Mapping[Any, Mapping[str, Any]], drawn: Sketch, depth: int
    ) -> etree._Element:
        """A layer where it lies in its composition."""
        a, b, c, d, e, f = placed(layer, by_number, drawn)[:2].T.ravel().tolist()
        whole = svg_element("g", transform=f"matrix({a:.10g} {b:.10g} {c:.10g} {d:.10g} {e:.10g} {f:.10g})")
        opacity = drawn.value(_transform(layer).get("o"), (100.0,))[0] / 100
        if opacity < 1:
            whole.set("opacity", f"{max(opacity, 0.0):.10g}")
        if layer.get("bm"):
            drawn.say("blend modes")
        whole.extend(self.shown(layer, drawn, depth))
        return whole

    def _masked(self, layer: Mapping[str, Any], elements: list[etree._Element], drawn: Sketch) -> list[etree._Element]:
        masks = [
            mask for mask in layer.get("masksProperties") or () if isinstance(mask, dict) and mask.get("mode") != "n"
        ]
        if not masks or not elements:
            return elements
        if any(mask.get("mode") != "a" or mask.get("inv") for mask in masks):
            drawn.say("masks that take away")
            return elements
        if any(drawn.value(mask.get("o"), (100.0,))[0] < 100 for mask in masks):
            drawn.say("masks that let a part through")
        clip = svg_element("clipPath")
        for mask in masks:
            prop = mask.get("pt")
            if not isinstance(prop, dict) or moves(prop):
                drawn.say("masks that move")
                return elements
            clip.append(svg_element("path", d=path_data([contour_of(prop.get("k"))])))
        holder = svg_element("g", clip_path=drawn.named(clip))
        holder.extend(elements)
        return [holder]


def placed(layer: Mapping[str, Any], by_number: Mapping[Any, Mapping[str, Any]], drawn: Sketch) -> Floats:
    """From a layer to its composition, all that it hangs on included, shape (3, 3)."""
    result = np.eye(3)
    seen: set[int] = set()
    above: Mapping[str, Any] | None = layer
    while above is not None and id(above) not in seen:
        seen.add(id(above))
        result = matrix_of(_transform(above), drawn) @ result
        above = by_number.get(above.get("parent")) if "parent" in above else None
    return result


def _transform(layer: Mapping[str, Any]) -> dict[str, Any]:
    result = layer.get("ks")
    if not isinstance(result, dict):
        raise Unreadable("its transform is missing")
    return result
