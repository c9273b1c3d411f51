"""A layered drawing as artwork: each top-level layer a piece that lies exactly where the drawing shows it."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from copy import deepcopy
from dataclasses import dataclass, replace

from lxml import etree

from jointed_crane.core.basics.limits import MOST_LAYERS
from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.geometry.outlines import outline
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.formats import progress
from jointed_crane.formats.artwork import Artwork, ArtworkError, Piece, title_of
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


def read_svg(
    data: bytes,
    name: str,
    opened: Collection[str] = (),
    crosses: Mapping[str, str] | None = None,
    is_one: bool = False,
) -> Artwork:
    """Read a layered drawing.

    Art space of every piece is the page: px from its upper left corner. Raises ArtworkError with a sentence.

    Parameters
    ----------
    opened : paths of layers that become many pieces, one for each element inside
    crosses : by path, the name of an element inside a layer that is its registration and is not drawn
    is_one : take the whole drawing as one piece
    """
    root, notes = read_tree(data, name)
    viewport = viewport_of(root)
    if not viewport.width or not viewport.height:
        raise ArtworkError(f"The page of {name} has no size. Nothing was brought in; give it a width and a height.")
    layers = [_Layer(_wrapped_contents(root), [], "0")] if is_one else _opened(_layers(root), opened)
    if len(layers) > MOST_LAYERS:
        raise ArtworkError(
            f"{name} has {len(layers)} layers; {MOST_LAYERS} is the most. Nothing was brought in; group some of them."
        )
    page = Page(root)
    pieces: list[Piece] = []
    for number, layer in enumerate(layers, start=1):
        if number % 10 == 0:
            progress.tell(number, len(layers), "layers")
        title = title_of(name, "Drawing") if is_one else layer_name(layer.element, number)
        cross = _taken_out(layer, page, root, (crosses or {}).get(layer.path, ""))
        if cross is not None:
            page = Page(root)
        piece = _piece(layer, page, root, free_name(title, (made.name for made in pieces)))
        if piece is None:
            notes.append(f"{title} paints nothing; it was left out.")
            continue
        inner = tuple(layer_name(child, place) for place, child in enumerate(_groups_inside(layer.element), start=1))
        found = replace(
            piece,
            path=layer.path,
            layer=title,
            layer_id="" if is_one else layer.element.get("id", ""),
            inner=inner,
            crosses=_cross_names(layer.element),
        )
        if cross is not None:
            found = replace(found, cross=(crosses or {})[layer.path], cross_point=cross)
        pieces.append(found)
    if not pieces:
        raise ArtworkError(f"{name} paints nothing that could become a part. Nothing was brought in.")
    return Artwork(viewport.width, viewport.height, tuple(pieces), tuple(dict.fromkeys(notes)), name)


def _groups_inside(element: etree._Element) -> list[etree._Element]:
    """What a layer would become if it were opened: its painted children, where there are groups among them."""
    if local_name(element) not in ("g", "a") or acts_as_a_whole(element):
        return []
    inner = [child for child in element if local_name(child) in PAINTED]
    return inner if any(local_name(child) in ("g", "a", "svg") for child in inner) else []


def _opened(layers: list[_Layer], opened: Collection[str]) -> list[_Layer]:
    found: list[_Layer] = []
    for layer in layers:
        inside = _groups_inside(layer.element) if layer.path in opened else []
        wrappers = [*layer.wrappers, layer.element]
        below = [_Layer(child, wrappers, f"{layer.path}.{number}") for number, child in enumerate(inside)]
        found += _opened(below, opened) if below else [layer]
    return found


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
            found = outline(page.patches(inner, between))
            if found is None:
                break
            left, top, right, bottom = found[0]
            inner.getparent().remove(inner)
            return ((left + right) / 2, (top + bottom) / 2)
    raise ArtworkError(
        f"{layer_name(layer.element, 1)} has no element called {name[:60]!r} that paints. Nothing was brought in."
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


def _piece(layer: _Layer, page: Page, root: etree._Element, name: str) -> Piece | None:
    element = deepcopy(layer.element)
    is_shown = not _is_hidden(element) and not any(_is_hidden(wrapper) for wrapper in layer.wrappers)
    unhide(element)  # measured and kept as it shows
    found = outline(page.patches(element, layer.wrappers))
    if found is None:
        return None
    bounds, rings = found
    box = _picture_box(root, element, bounds)
    art = standalone(element, layer.wrappers, page, root, box)
    return Piece(name, "drawing", "image/svg+xml", art, box, bounds, rings, is_shown)


def _is_hidden(element: etree._Element) -> bool:
    return declared(element, "display") == "none"


def _picture_box(root: etree._Element, element: etree._Element, bounds: Bounds) -> Bounds:
    """The picture's box: the page and all that is painted, with room for what cannot be measured exactly."""
    viewport = viewport_of(root)
    effects = any(
        local_name(inner) in _UNMEASURED
        or any(word in " ".join(inner.attrib) + inner.get("style", "") for word in _UNMEASURED)
        for inner in element.iter()
    )
    spare = 0.5 * max(bounds[2] - bounds[0], bounds[3] - bounds[1], 100.0) if effects else 4.0
    left, top = min(0.0, bounds[0] - spare), min(0.0, bounds[1] - spare)
    right, bottom = max(viewport.width, bounds[2] + spare), max(viewport.height, bounds[3] + spare)
    return (round(left, 3), round(top, 3), round(right, 3), round(bottom, 3))
