"""An SVG file's bytes as a tree that is safe to show: no script, no entity, nothing from outside, no bomb."""

from __future__ import annotations

import base64
import binascii
import io
import math
import re

from lxml import etree
from PIL import Image

from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.bitmap import MOST_PIXELS
from jointed_crane.formats.svg.styles import own_style, resolve_style_sheets, set_style
from jointed_crane.formats.svg.tags import (
    ALLOWED,
    LEFT_OUT,
    SVG,
    XLINK_HREF,
    elements_by_id,
    is_kept_attribute,
    local_name,
)
from jointed_crane.formats.svg.viewports import NUMBER

MOST_BYTES = 12_000_000
MOST_ELEMENTS = 50_000
MOST_COPIES = 200_000

URL = re.compile(r"url\(\s*[\"']?\s*([^)\"']*?)\s*[\"']?\s*\)", re.I)
_NOT_A_NUMBER = re.compile(r"(?<![a-z])(?:nan|[-+]?inf(?:inity)?)(?![a-z])", re.I)
_NUMERIC = {
    "d", "points", "transform", "x", "y", "width", "height", "cx", "cy", "r", "rx", "ry", "x1", "x2", "y1", "y2",
    "fx", "fy", "viewBox", "stroke-width", "opacity", "offset", "stdDeviation", "gradientTransform",
    "patternTransform", "dx", "dy", "font-size",
}  # fmt: skip
_BITMAP = re.compile(r"^data:image/(png|jpeg|jpg|webp|gif);base64,", re.I)


def read_tree(data: bytes, name: str) -> tuple[etree._Element, list[str]]:
    """The drawing's root with styles resolved and everything unsafe left out, and notes on what that was.

    Raises ArtworkError where the file cannot be read, defines entities, is too large, or refers to itself.
    """
    if len(data) > MOST_BYTES:
        raise ArtworkError(
            f"{name} has {len(data) / 1e6:.0f} MB; a drawing may have {MOST_BYTES // 1_000_000} MB. "
            "Nothing was brought in; leave out embedded pictures or simplify its paths."
        )
    root = _parsed(data, name)
    notes: list[str] = []
    if b"<?xml-stylesheet" in data[:4096]:
        notes.append("An external style sheet was left out; put its rules into the drawing.")
    count = sum(1 for _ in root.iter())
    if count > MOST_ELEMENTS:
        raise ArtworkError(
            f"{name} holds {count} elements; {MOST_ELEMENTS} is the most. "
            "Nothing was brought in; merge shapes or split the drawing into several files."
        )
    notes += resolve_style_sheets(root)
    _clean(root, notes)
    _refuse_endless_references(root, name)
    return root, list(dict.fromkeys(notes))


def _parsed(data: bytes, name: str) -> etree._Element:
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, remove_comments=True, remove_pis=True
    )
    try:
        root = etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise ArtworkError(
            f"{name} is not a well-formed SVG drawing ({error.__class__.__name__}: {str(error)[:120]}). "
            "Nothing was brought in; save it anew from the drawing program."
        ) from None
    document_type = root.getroottree().docinfo.internalDTD
    if document_type is not None and next(iter(document_type.iterentities()), None) is not None:
        raise ArtworkError(
            f"{name} defines entities of its own, which are not read. "
            "Nothing was brought in; save it as plain SVG without a document type."
        )
    if root.tag != f"{{{SVG}}}svg":
        raise ArtworkError(f"{name} is XML but not an SVG drawing. Nothing was brought in.")
    return root


def _clean(root: etree._Element, notes: list[str]) -> None:
    for element in list(root.iter()):
        if element is not root and local_name(element) not in ALLOWED:
            tag = element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""
            if tag in LEFT_OUT:
                notes.append(f"The drawing held {LEFT_OUT[tag]}; it was left out.")
            _remove(element)
            continue
        for attribute in list(element.attrib):
            value = element.get(attribute)
            if attribute.lower().startswith("on"):
                notes.append("The drawing held an event handler; it was left out.")
            # A layer's name may come from any editor's own `label`; it is read later and never stored.
            keeps = is_kept_attribute(attribute) or attribute.endswith("}label")
            if not keeps or not _is_harmless(element, attribute, value, notes):
                del element.attrib[attribute]
        if "style" in element.attrib:
            _clean_style(element, notes)


def _remove(element: etree._Element) -> None:
    parent = element.getparent()
    if parent is None:
        return
    if element.tail:  # text behind the element belongs to its parent
        before = element.getprevious()
        if before is None:
            parent.text = (parent.text or "") + element.tail
        else:
            before.tail = (before.tail or "") + element.tail
    parent.remove(element)


def _is_harmless(element: etree._Element, attribute: str, value: str, notes: list[str]) -> bool:
    if attribute in ("href", XLINK_HREF, "src"):
        return _is_inside(element, value, notes)
    if attribute in _NUMERIC and not _is_finite(value):
        notes.append(f"The drawing held a number that is not finite ({attribute}); it was left out.")
        return False
    return attribute == "style" or _keeps_to_itself(value, notes)


def _is_finite(value: str) -> bool:
    if _NOT_A_NUMBER.search(value):
        return False
    return all(math.isfinite(number) and abs(number) < 1e9 for number in map(float, NUMBER.findall(value)))


def _is_inside(element: etree._Element, target: str, notes: list[str]) -> bool:
    tag = local_name(element)
    if tag == "a":
        return False
    if target.startswith("#"):
        return True
    match = _BITMAP.match(target)
    if tag in ("image", "feImage") and match:
        return _is_small_bitmap(target[match.end() :], notes)
    notes.append(f"The drawing pointed at something outside it ({target[:60]}); it was left out.")
    return False


def _is_small_bitmap(encoded: str, notes: list[str]) -> bool:
    try:
        with Image.open(io.BytesIO(base64.b64decode(encoded))) as picture:
            is_small = picture.width * picture.height <= MOST_PIXELS
    except (OSError, ValueError, binascii.Error, Image.DecompressionBombError):
        notes.append("An embedded picture could not be read; it was left out.")
        return False
    if not is_small:
        notes.append("An embedded picture was too large; it was left out.")
    return is_small


def _keeps_to_itself(value: str, notes: list[str]) -> bool:
    for target in URL.findall(value):
        if not target.startswith("#"):
            notes.append(f"The drawing pointed at something outside it ({target[:60]}); it was left out.")
            return False
    return True


def _clean_style(element: etree._Element, notes: list[str]) -> None:
    style = own_style(element)
    kept = {
        name: value
        for name, value in style.items()
        if _keeps_to_itself(value, notes)
        and "image-set" not in value
        and not name.startswith(("animation", "transition", "-"))
    }
    set_style(element, kept)


def references_of(element: etree._Element) -> list[str]:
    """Ids that one element refers to, by href or by url() in any attribute."""
    found = []
    for attribute, value in element.attrib.items():
        if attribute in ("href", XLINK_HREF):
            if value.startswith("#"):
                found.append(value[1:])
        else:
            found += [target[1:] for target in URL.findall(value) if target.startswith("#")]
    return found


def _refuse_endless_references(root: etree._Element, name: str) -> None:
    """Refuse references that run in a circle, or whose copies multiply beyond what can be drawn."""
    by_id = elements_by_id(root)
    points_at = {
        key: [target for inner in element.iter() for target in references_of(inner) if target in by_id]
        for key, element in by_id.items()
    }
    sizes = {key: sum(1 for _ in by_id[key].iter()) for key in points_at}
    cost: dict[str, int] = {}
    for start in points_at:
        _count_copies(start, points_at, sizes, cost, name)
    total = sum(cost[target] for element in root.iter() for target in references_of(element) if target in cost)
    if total > MOST_COPIES:
        raise ArtworkError(
            f"The references in {name} multiply to {total} elements; {MOST_COPIES} is the most. "
            "Nothing was brought in; draw the repeated shapes fewer times."
        )


def _count_copies(
    start: str, points_at: dict[str, list[str]], sizes: dict[str, int], cost: dict[str, int], name: str
) -> None:
    """Depth first, without recursion: how many elements one copy of `start` brings along."""
    trail: list[str] = []
    stack: list[tuple[str, bool]] = [(start, False)]
    while stack:
        key, is_done = stack.pop()
        if is_done:
            trail.pop()
            cost[key] = min(sizes[key] + sum(cost[target] for target in points_at[key]), 10**12)
            continue
        if key in cost:
            continue
        if key in trail:
            loop = " to ".join(f"#{step}" for step in [*trail[trail.index(key) :], key])
            raise ArtworkError(
                f"The drawing {name} refers to itself in a circle: {loop}. Nothing was brought in; break the circle."
            )
        trail.append(key)
        stack.append((key, True))
        stack += [(target, False) for target in points_at[key]]
