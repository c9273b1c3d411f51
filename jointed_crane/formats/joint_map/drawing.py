"""The joint map as an SVG drawing for paper and screen; classes let a page colour it, attributes serve elsewhere."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from math import dist

from lxml import etree

from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.joint_map.layout import NODE, JointMap, MapLink, MapNode, MapReference, Point
from jointed_crane.formats.svg.tags import SVG
from jointed_crane.formats.svg_out.inlining import number

_INK, _PAPER, _LINE, _BRASS, _LAGOON, _GROUND = "#20303c", "#fffdf8", "#ded5c3", "#b07d2b", "#12706f", "#f4efe4"
#: How round the corners of lines are, px.
_ROUND = 6.0


def map_svg(scene: Scene, picture: JointMap, links_to: str = "") -> etree._Element:
    """The map as an element. With `links_to` each node is a link to that address and "#pick=" the part."""
    root = etree.Element(f"{{{SVG}}}svg", nsmap={None: SVG})
    root.set("width", number(picture.width))
    root.set("height", number(picture.height))
    root.set("viewBox", f"0 0 {number(picture.width)} {number(picture.height)}")
    root.set("font-family", "Hanken Grotesk, sans-serif")
    root.set("font-size", "13")
    etree.SubElement(root, f"{{{SVG}}}title").text = f"Joint map of {scene.name}"
    for link in picture.links:
        _draw_link(root, link)
    for reference in picture.references:
        _draw_reference(root, reference)
    for node in picture.nodes:
        holder = root
        if links_to:
            holder = etree.SubElement(root, f"{{{SVG}}}a", href=f"{links_to}#pick={node.part.id}")
        _draw_node(holder, node)
    for reference in picture.references:
        _draw_word(root, reference)
    return root


def map_bytes(scene: Scene, picture: JointMap) -> bytes:
    """The map as a file of its own."""
    return etree.tostring(map_svg(scene, picture), encoding="utf-8", xml_declaration=True)


def _draw_link(root: etree._Element, link: MapLink) -> None:
    (x, y), (to_x, to_y) = link.start, link.end
    bend = (x + to_x) / 2
    points = [(bend, y), (bend, to_y), (to_x, to_y)]
    path = f"M{number(x)} {number(y)}C{' '.join(f'{number(px)} {number(py)}' for px, py in points)}"
    line = etree.SubElement(root, f"{{{SVG}}}path", d=path, fill="none", stroke=_LAGOON)
    line.set("stroke-width", "1.6")
    line.set("class", "map-link")
    line.set("data-link", link.child)
    if link.seat is None:
        return
    ring = etree.SubElement(root, f"{{{SVG}}}circle", cx=number(to_x - 7), cy=number(to_y), r="5", fill=_PAPER)
    ring.set("stroke", _LAGOON)
    ring.set("stroke-width", "2.2")
    ring.set("class", "map-seat")
    etree.SubElement(ring, f"{{{SVG}}}title").text = f"seated in eyelet {link.seat}"


def _draw_reference(root: etree._Element, reference: MapReference) -> None:
    """A dashed line with round corners."""
    line = etree.SubElement(root, f"{{{SVG}}}path", fill="none", stroke=_LAGOON)
    line.set("d", _rounded(reference.course))
    line.set("stroke-width", "1.4")
    line.set("stroke-dasharray", "7 4")
    line.set("class", "map-rule")
    line.set("data-rule", f"{reference.source} {reference.part}")


def _draw_word(root: etree._Element, reference: MapReference) -> None:
    """The word of a line in the middle of its longest side, over all else: there is little room between the nodes."""
    (x, y), (to_x, to_y) = max(pairwise(reference.course), key=lambda side: dist(*side))
    text = etree.SubElement(root, f"{{{SVG}}}text", x=number((x + to_x) / 2), y=number((y + to_y) / 2 + 3.5))
    text.set("fill", _INK)
    text.set("font-size", "11")
    text.set("text-anchor", "middle")
    text.set("class", "map-word")
    text.set("stroke", _GROUND)
    text.set("stroke-width", "4")
    text.set("paint-order", "stroke")
    text.text = reference.word


def _rounded(course: Sequence[Point]) -> str:
    """Path data along corners, each taken in a curve."""
    pieces = [f"M{_pair(course[0])}"]
    for before, corner, after in zip(course, course[1:], course[2:], strict=False):
        pieces.append(f"L{_pair(_towards(corner, before))}Q{_pair(corner)} {_pair(_towards(corner, after))}")
    return "".join([*pieces, f"L{_pair(course[-1])}"])


def _towards(corner: Point, other: Point) -> Point:
    """A little way from a corner to the next, half of it at most."""
    length = dist(corner, other)
    share = min(_ROUND, length / 2) / length if length else 0.0
    return (corner[0] + share * (other[0] - corner[0]), corner[1] + share * (other[1] - corner[1]))


def _pair(point: Point) -> str:
    return f"{number(point[0])} {number(point[1])}"


def _draw_node(holder: etree._Element, node: MapNode) -> None:
    x, y = node.place
    width, height = NODE
    group = etree.SubElement(holder, f"{{{SVG}}}g")
    group.set("class", "map-node")
    group.set("data-node", node.part.id)
    group.set("data-name", node.part.name)
    box = etree.SubElement(group, f"{{{SVG}}}rect", x=number(x), y=number(y - height / 2), rx="6", fill=_PAPER)
    box.set("width", number(width))
    box.set("height", number(height))
    box.set("stroke", _LAGOON if node.part.kind in ("helper", "lever") else _LINE)
    box.set("class", "map-box")
    if node.part.kind in ("helper", "lever"):
        box.set("stroke-dasharray", "4 3")
    _draw_sign(group, node)
    text = etree.SubElement(group, f"{{{SVG}}}text", x=number(x + 28), y=number(y + 4.5), fill=_INK)
    text.set("class", "map-name")
    if node.part.kind in ("helper", "lever"):
        text.set("font-style", "italic")
    name = node.part.name
    text.text = name if len(name) <= 20 else f"{name[:19]}…"


def _draw_sign(group: etree._Element, node: MapNode) -> None:
    """The split pin of a part, the dashed square of a helper."""
    x, y = node.place[0] + 15, node.place[1]
    if node.part.kind in ("helper", "lever"):
        square = etree.SubElement(
            group, f"{{{SVG}}}rect", x=number(x - 5), y=number(y - 5), width="10", height="10", rx="2"
        )
        for name, value in (
            ("fill", "none"),
            ("stroke", _LAGOON),
            ("stroke-width", "1.5"),
            ("stroke-dasharray", "3 2"),
        ):
            square.set(name, value)
        return
    disc = etree.SubElement(group, f"{{{SVG}}}circle", cx=number(x), cy=number(y), r="6", fill="#e9c983", stroke=_BRASS)
    disc.set("stroke-width", "1.4")
    slot = etree.SubElement(
        group, f"{{{SVG}}}path", d=f"M{number(x - 2)} {number(y + 1.5)}L{number(x + 2)} {number(y - 1.5)}"
    )
    for name, value in (("stroke", "#7a5516"), ("stroke-width", "1.7"), ("stroke-linecap", "round")):
        slot.set(name, value)
