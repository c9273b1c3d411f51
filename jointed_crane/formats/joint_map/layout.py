"""The rig as a graph laid out for reading: parents left of their children, every limb a band of its own."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from jointed_crane.core.model.scene import Part, Scene

#: Distance of generations and of neighbouring leaves, px; size of a node, px.
COLUMN, ROW = 210.0, 38.0
NODE = (168.0, 28.0)
_MARGIN = 24.0


@dataclass(frozen=True)
class MapNode:
    """One part: the middle of its left edge, px on the map."""

    part: Part
    place: tuple[float, float]


@dataclass(frozen=True)
class MapLink:
    """A line from a parent's right edge to its child's left edge; `seat` is the eyelet that holds the child."""

    parent: str
    child: str
    start: tuple[float, float]
    end: tuple[float, float]
    seat: str | None


@dataclass(frozen=True)
class MapReference:
    """A line from what places or drives a part otherwise to that part, with the kind of that in a word."""

    source: str
    part: str
    start: tuple[float, float]
    end: tuple[float, float]
    word: str


@dataclass(frozen=True)
class JointMap:
    """The whole map, its size in px."""

    nodes: tuple[MapNode, ...]
    links: tuple[MapLink, ...]
    references: tuple[MapReference, ...]
    width: float
    height: float


def joint_map(scene: Scene) -> JointMap:
    """Lay out every part: x by its depth, y in the middle of its children, leaves one below the other.

    Children stand in the order of the joint tree, in front first. Deep chains are walked without recursion.
    """
    places: dict[str, tuple[float, float]] = {}
    rows = 0
    depth = 0
    # Children are placed before their parent: a part comes onto the stack a second time, below them.
    stack: list[tuple[Part, int, bool]] = [(part, 0, False) for part in scene.children.get(None, ())]
    while stack:
        part, level, is_placed = stack.pop()
        depth = max(depth, level)
        children = scene.children.get(part.id, ())
        if children and not is_placed:
            stack.append((part, level, True))
            stack += [(child, level + 1, False) for child in children]
            continue
        if children:
            y = (places[children[0].id][1] + places[children[-1].id][1]) / 2
        else:
            y = _MARGIN + ROW * (rows + 0.5)
            rows += 1
        places[part.id] = (_MARGIN + COLUMN * level, y)
    nodes = tuple(MapNode(part, places[part.id]) for part in scene.parts)
    links = tuple(_link(scene, part, places) for part in scene.parts if part.parent is not None)
    width = 2 * _MARGIN + COLUMN * depth + NODE[0]
    return JointMap(nodes, links, tuple(_references(scene, places)), width, 2 * _MARGIN + ROW * max(rows, 1))


def _references(scene: Scene, places: Mapping[str, tuple[float, float]]) -> Iterator[MapReference]:
    """Constraints and links, each pair of parts once a kind."""
    for part in scene.parts:
        pairs: list[tuple[str | None, str]] = [
            (goal.part, one.kind) for one in part.constraints for goal in one.every_goal()
        ]
        pairs += [(link.source, "link") for link in part.links]
        for source, word in dict.fromkeys(pairs):
            if source is not None and source != part.id:
                (x, y), (to_x, to_y) = places[source], places[part.id]
                middle = NODE[0] / 2
                yield MapReference(source, part.id, (x + middle, y), (to_x + middle, to_y), word)


def _link(scene: Scene, part: Part, places: dict[str, tuple[float, float]]) -> MapLink:
    assert part.parent is not None
    parent = scene.part(part.parent)
    x, y = places[parent.id]
    eyelet = parent.eyelet(part.seat) if part.seat else None
    return MapLink(parent.id, part.id, (x + NODE[0], y), places[part.id], eyelet.name if eyelet else None)
