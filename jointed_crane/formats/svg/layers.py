"""A layered drawing as artwork: each top-level layer a piece that lies exactly where the drawing shows it."""

from __future__ import annotations

from collections.abc import Collection
from copy import deepcopy
from dataclasses import dataclass, replace
from functools import lru_cache

from lxml import etree

from jointed_crane.core.basics import progress
from jointed_crane.core.basics.limits import MOST_LAYERS
from jointed_crane.core.geometry.coordinates import Bounds, Ring
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.outlines.outline import outline
from jointed_crane.formats.artwork import AS_LAYERS, WHOLE, Artwork, ArtworkError, FileRead, Piece, Reading, title_of
from jointed_crane.formats.svg.layer_names import given_name, layer_name
from jointed_crane.formats.svg.measuring import Page
from jointed_crane.formats.svg.parsing import read_tree
from jointed_crane.formats.svg.standalone import acts_as_a_whole, standalone, unhide
from jointed_crane.formats.svg.styles import declared
from jointed_crane.formats.svg.tags import PAINTED, SHAPES, SVG, local_name
from jointed_crane.formats.svg.viewports import viewport_of

_UNMEASURED = {"filter", "text", "marker", "mask", "pattern"}


@dataclass(frozen=True)
class _Layer:
    """One element that becomes a piece, with the groups between it and the root, outermost first; and its path."""

    element: etree._Element
    wrappers: list[etree._Element]
    path: str


def read_svg(data: bytes, name: str, reading: Reading = AS_LAYERS) -> Artwork:
    """Read a layered drawing.

    Art space of every piece is the page: px from its upper left corner. Raises ArtworkError with a sentence.
    """
    root, notes = read_tree(data, name)
    viewport = viewport_of(root)
    if not viewport.width or not viewport.height:
        raise ArtworkError(f"The page of {name} has no size. Nothing was brought in; give it a width and a height.")
    layers = _layers(root)
    count, coming = len(layers), reading.coming
    if coming is None:
        coming = "layers" if any(given_name(layer.element) for layer in layers) else "part"
    is_one = coming == "part"
    layers = (
        [_Layer(_wrapped_contents(root), [], WHOLE)]
        if is_one
        else _fused(_opened(layers, reading.opened), reading.fused)
    )
    if len(layers) > MOST_LAYERS:
        raise ArtworkError(
            f"{name} has {len(layers)} layers; {MOST_LAYERS} is the most. Nothing was brought in; group some of them."
        )
    size = (viewport.width, viewport.height)
    page = Page(root)
    pieces: list[Piece] = []
    taken: set[str] = set()
    for number, layer in enumerate(layers, start=1):
        if number % 10 == 0:
            progress.tell(number, len(layers), "layers")
        element = layer.element
        cross = _taken_out(layer, page, root, reading.crosses.get(layer.path, ""))
        if cross is not None:
            page = Page(root)
        unhidden = _unhidden(element)
        patches = page.patches(unhidden, layer.wrappers)
        measured = outline(patches)
        if measured is None:
            words = title_of(name, "Drawing") if is_one else given_name(element) or f"Layer {number}"
            notes.append(f"{words} paints nothing; it was left out.")
            continue
        title = title_of(name, "Drawing") if is_one else layer_name(unhidden, patches, measured[0], size)
        result = replace(
            _piece(layer, unhidden, page, root, measured, free_name(title, taken)),
            path=layer.path,
            layer=title,
            layer_id="" if is_one else element.get("id", ""),
            inner=tuple(map(given_name, _groups_inside(element))),
            crosses=_cross_names(element),
        )
        if cross is not None:
            result = replace(result, cross=reading.crosses[layer.path], cross_point=cross)
        pieces.append(result)
        taken.add(result.name)
    if not pieces:
        raise ArtworkError(f"{name} paints nothing that could become a part. Nothing was brought in.")
    read = FileRead(name, coming, count, *size)
    return Artwork(*size, tuple(pieces), tuple(dict.fromkeys(notes)), name, (read,))


def _fused(layers: list[_Layer], groups: Collection[Collection[str]]) -> list[_Layer]:
    """The layers with those of each group as one, where the uppermost of them lies; ArtworkError where they lie in
    different groups of the drawing.
    """
    for group in groups:
        members = [layer for layer in layers if layer.path in group]
        if len(members) < 2:
            continue
        holder = members[-1].element.getparent()
        if any(member.element.getparent() is not holder for member in members):
            raise ArtworkError(
                "Layers that lie in different groups of the drawing cannot be fused on the way in. Nothing was brought "
                "in; fuse them as parts."
            )
        whole = etree.Element(f"{{{SVG}}}g")
        holder.insert(holder.index(members[-1].element), whole)
        whole.extend([member.element for member in members])
        named = next(filter(None, (given_name(member.element) for member in reversed(members))), "")
        if named:
            etree.SubElement(whole, f"{{{SVG}}}title").text = named
        one = _Layer(whole, members[-1].wrappers, "+".join(member.path for member in members))
        layers = [one if layer is members[-1] else layer for layer in layers if layer not in members[:-1]]
    return layers


def _groups_inside(element: etree._Element) -> list[etree._Element]:
    """What a layer would become if it were opened: its painted children, where there are groups among them."""
    if local_name(element) not in ("g", "a") or acts_as_a_whole(element):
        return []
    inner = [child for child in element if local_name(child) in PAINTED]
    return inner if any(local_name(child) in ("g", "a", "svg") for child in inner) else []


def _opened(layers: list[_Layer], opened: Collection[str]) -> list[_Layer]:
    result: list[_Layer] = []
    for layer in layers:
        inside = _groups_inside(layer.element) if layer.path in opened else []
        wrappers = [*layer.wrappers, layer.element]
        below = [_Layer(child, wrappers, f"{layer.path}.{number}") for number, child in enumerate(inside)]
        result += _opened(below, opened) if below else [layer]
    return result


def _cross_names(element: etree._Element) -> tuple[str, ...]:
    """Names of small elements inside a layer that could be its registration: those that were given a name at all."""
    names = [given_name(inner) for inner in element.iterdescendants() if local_name(inner) in SHAPES]
    return tuple(dict.fromkeys(name for name in names if name))[:40]


def _taken_out(layer: _Layer, page: Page, root: etree._Element, name: str) -> tuple[float, float] | None:
    """Take a named element out of a layer; the middle of what it painted, px on the page, or None without a name."""
    if not name:
        return None
    for inner in layer.element.iterdescendants():
        if local_name(inner) in SHAPES and given_name(inner) == name:
            between = [ancestor for ancestor in inner.iterancestors() if ancestor is not root][::-1]
            result = outline(page.patches(inner, between))
            if result is None:
                break
            left, top, right, bottom = result[0]
            inner.getparent().remove(inner)
            return ((left + right) / 2, (top + bottom) / 2)
    raise ArtworkError(
        f"{given_name(layer.element) or 'That layer'} has no element called {name[:60]!r} that paints. Nothing was "
        "brought in."
    )


def _layers(root: etree._Element) -> list[_Layer]:
    """Top-level layers from back to front; a single group that wraps everything is looked through."""
    if acts_as_a_whole(root):
        return [_Layer(_wrapped_contents(root), [], "0")]
    wrappers: list[etree._Element] = []
    holder = root
    while True:
        children = [child for child in holder if local_name(child) in PAINTED]
        if len(children) != 1 or not _is_wrapper(children[0]):
            return [_Layer(child, wrappers, str(number)) for number, child in enumerate(children)]
        holder = children[0]
        wrappers = [*wrappers, holder]


def _is_wrapper(element: etree._Element) -> bool:
    if local_name(element) not in ("g", "a") or acts_as_a_whole(element):
        return False
    inner = [child for child in element if local_name(child) in PAINTED]
    return any(local_name(child) in ("g", "a", "svg") for child in inner)


def _wrapped_contents(root: etree._Element) -> etree._Element:
    """Everything on the page as one group, for a root whose opacity, filter or mask acts on the whole."""
    group = etree.SubElement(root, f"{{{SVG}}}g")
    for child in [child for child in root if local_name(child) in PAINTED and child is not group]:
        group.append(child)
    return group


def _unhidden(element: etree._Element) -> etree._Element:
    """A copy of a layer as it shows: what is hidden in its file is measured and kept all the same."""
    copy = deepcopy(element)
    unhide(copy)
    return copy


def _piece(
    layer: _Layer,
    element: etree._Element,
    page: Page,
    root: etree._Element,
    measured: tuple[Bounds, tuple[Ring, ...]],
    name: str,
) -> Piece:
    is_shown = not any(map(_is_hidden, (layer.element, *layer.wrappers)))
    bounds, rings = measured
    box = _picture_box(root, element, bounds)
    art = standalone(element, layer.wrappers, page, root, box)
    return Piece(name, "drawing", "image/svg+xml", art, box, bounds, rings, is_shown)


def _is_hidden(element: etree._Element) -> bool:
    return declared(element, "display") == "none"


@lru_cache(maxsize=4096)
def _names_effect(*words: str) -> bool:
    """Whether attributes or a style name something that is painted beyond what is measured; drawings say the same few
    again and again.
    """
    said = " ".join(words)
    return any(word in said for word in _UNMEASURED)


def _picture_box(root: etree._Element, element: etree._Element, bounds: Bounds) -> Bounds:
    """The picture's box: the page and all that is painted, with room for what cannot be measured exactly."""
    viewport = viewport_of(root)
    effects = any(
        local_name(inner) in _UNMEASURED or _names_effect(*inner.attrib, inner.get("style", ""))
        for inner in element.iter()
    )
    spare = 0.5 * max(bounds[2] - bounds[0], bounds[3] - bounds[1], 100.0) if effects else 4.0
    left, top = min(0.0, bounds[0] - spare), min(0.0, bounds[1] - spare)
    right, bottom = max(viewport.width, bounds[2] + spare), max(viewport.height, bounds[3] + spare)
    return (round(left, 3), round(top, 3), round(right, 3), round(bottom, 3))
