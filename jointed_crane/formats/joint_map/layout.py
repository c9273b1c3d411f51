"""The rig as a graph laid out for reading: parents left of their children, every limb a band of its own."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from jointed_crane.core.model.scene import Part, Scene

#: Distance of generations and of neighbouring leaves, px; size of a node, px.
COLUMN, ROW = 210.0, 38.0
NODE = (168.0, 28.0)
_MARGIN = 24.0
#: How far behind a column lines of constraints run, one after the other, and how clear of the nodes, px.
_LANES, _CLEAR = (10.0, 15.0, 20.0, 25.0), 4.0

Point = tuple[float, float]


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
    """A line from what places or drives a part otherwise to that part, with the kind of that in a word.

    `course` has its corners, px on the map: it keeps to the lanes between the columns and crosses none of the nodes.
    """

    source: str
    part: str
    course: tuple[Point, ...]
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
    width = 2 * _MARGIN + COLUMN * (depth + 1)
    return JointMap(nodes, links, tuple(_references(scene, places)), width, 2 * _MARGIN + ROW * max(rows, 1))


def _references(scene: Scene, places: Mapping[str, tuple[float, float]]) -> Iterator[MapReference]:
    """Constraints and links, each pair of parts once a kind."""
    number = 0
    for part in scene.parts:
        pairs: list[tuple[str | None, str]] = [
            (goal.part, one.kind) for one in part.constraints for goal in one.every_goal()
        ]
        pairs += [(link.source, "link") for link in part.links]
        for source, word in dict.fromkeys(pairs):
            if source is not None and source != part.id:
                lane = _LANES[number % len(_LANES)]
                number += 1
                yield MapReference(source, part.id, _course(places, source, part.id, lane), word)


def _course(places: Mapping[str, Point], source: str, target: str, lane: float) -> tuple[Point, ...]:
    """From the right edge of a node to that of another: along the lane behind its column, across at a height where no
    node stands in between, and along the lane behind the other's.
    """
    (x, y), (to_x, to_y) = places[source], places[target]
    # Beside the middle, from which the lines to children leave, and a little apart from each other.
    aside = 4.0 + lane / 6
    y, to_y = y + (aside if to_y >= y else -aside), to_y + (aside if to_y < y else -aside)
    begin, end = x + NODE[0], to_x + NODE[0]
    if x == to_x:
        return ((begin, y), (begin + lane, y), (end + lane, to_y), (end, to_y))
    across = _free_height(places, min(x, to_x) + COLUMN, max(x, to_x), (y, to_y))
    out, back = begin + lane, end + lane
    return ((begin, y), (out, y), (out, across), (back, across), (back, to_y), (end, to_y))


def _free_height(places: Mapping[str, Point], first: float, last: float, ends: tuple[float, float]) -> float:
    """The height nearest to both ends at which no node stands in the columns from the first to the last."""
    room = NODE[1] / 2 + _CLEAR
    taken = sorted(y for x, y in places.values() if first <= x <= last)
    heights = {end for end in ends} | {y + side for y in taken for side in (-room, room)}

    def is_free(height: float) -> bool:
        place = bisect_left(taken, height)
        return all(abs(taken[near] - height) >= room - 1e-9 for near in (place - 1, place) if 0 <= near < len(taken))

    free = [height for height in heights if is_free(height)]
    return min(free, key=lambda height: (abs(height - ends[0]) + abs(height - ends[1]), height))


def _link(scene: Scene, part: Part, places: dict[str, tuple[float, float]]) -> MapLink:
    assert part.parent is not None
    parent = scene.part(part.parent)
    x, y = places[parent.id]
    eyelet = parent.eyelet(part.seat) if part.seat else None
    return MapLink(parent.id, part.id, (x + NODE[0], y), places[part.id], eyelet.name if eyelet else None)
