"""An SVG file's bytes as a tree that is safe to show: no script, no entity, nothing from outside, no bomb."""

from __future__ import annotations

import re

from lxml import etree

from jointed_crane.core.basics.limits import MOST_COPIES, MOST_DRAWING_BYTES, MOST_ELEMENTS, MOST_STEPS
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.svg.cleaning import clean
from jointed_crane.formats.svg.styles import resolve_style_sheets
from jointed_crane.formats.svg.tags import SVG, XLINK_HREF, elements_by_id

#: An address in a cleaned drawing, where all of them have one plain form.
URL = re.compile(r"url\(#([\w.-]+)\)")


def read_tree(data: bytes, name: str) -> tuple[etree._Element, list[str]]:
    """The drawing's root with styles resolved and everything unsafe left out, and notes on what that was.

    Raises ArtworkError where the file cannot be read, defines entities, is too large, or refers to itself.
    """
    if len(data) > MOST_DRAWING_BYTES:
        raise ArtworkError(
            f"{name} has {len(data) / 1e6:.0f} MB; a drawing may have {MOST_DRAWING_BYTES // 1_000_000} MB. "
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
    notes += resolve_style_sheets(root, name)
    clean(root, notes)
    _refuse_endless_references(root, name)
    return root, list(dict.fromkeys(notes))


def cleaned(data: bytes, name: str) -> bytes:
    """A drawing written anew with nothing in it but what is known to be harmless."""
    return etree.tostring(read_tree(data, name)[0], encoding="utf-8")


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


def references_of(element: etree._Element) -> list[str]:
    """Ids that one element of a cleaned drawing refers to, by href or by url() in any attribute."""
    result = []
    for attribute, value in element.attrib.items():
        if attribute in ("href", XLINK_HREF):
            if value.startswith("#"):
                result.append(value[1:])
        elif "url(" in value:
            result += URL.findall(value)
    return result


def _refuse_endless_references(root: etree._Element, name: str) -> None:
    """Refuse references that run in a circle, or whose copies multiply beyond what can be drawn."""
    by_id = elements_by_id(root)
    points_at = {
        key: [target for inner in element.iter() for target in references_of(inner) if target in by_id]
        for key, element in by_id.items()
    }
    sizes = {key: sum(1 for _ in by_id[key].iter()) for key in points_at}
    cost: dict[str, int] = {}
    steps: dict[str, int] = {}
    for start in points_at:
        _count_copies(start, points_at, sizes, cost, steps, name)
    if max(steps.values(), default=0) > MOST_STEPS:
        raise ArtworkError(
            f"The references in {name} lead {max(steps.values())} steps from one to the next; {MOST_STEPS} is the "
            "most. Nothing was brought in; draw the repeated shapes directly."
        )
    total = sum(cost[target] for element in root.iter() for target in references_of(element) if target in cost)
    if total > MOST_COPIES:
        raise ArtworkError(
            f"The references in {name} multiply to {total} elements; {MOST_COPIES} is the most. "
            "Nothing was brought in; draw the repeated shapes fewer times."
        )


def _count_copies(
    start: str,
    points_at: dict[str, list[str]],
    sizes: dict[str, int],
    cost: dict[str, int],
    steps: dict[str, int],
    name: str,
) -> None:
    """Depth first, without recursion: how many elements one copy of `start` brings along, and in how many steps."""
    trail: list[str] = []
    on_trail: set[str] = set()
    stack: list[tuple[str, bool]] = [(start, False)]
    while stack:
        key, is_done = stack.pop()
        if is_done:
            on_trail.discard(trail.pop())
            cost[key] = min(sizes[key] + sum(cost[target] for target in points_at[key]), 10**12)
            steps[key] = 1 + max((steps[target] for target in points_at[key]), default=0)
            continue
        if key in cost:
            continue
        if key in on_trail:
            loop = " to ".join(f"#{step}" for step in [*trail[trail.index(key) :], key])
            raise ArtworkError(
                f"The drawing {name} refers to itself in a circle: {loop}. Nothing was brought in; break the circle."
            )
        trail.append(key)
        on_trail.add(key)
        stack.append((key, True))
        stack += [(target, False) for target in points_at[key]]
