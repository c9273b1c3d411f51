"""How many, how long and how large things may be: the one table, which models check, and the description tells.

No scene, edit, question, file or answer costs more than these allow, whatever its numbers.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeVar

Area = Literal["A scene", "Edits", "Questions", "What comes in", "What is sent"]
Count = TypeVar("Count", int, float)


@dataclass(frozen=True)
class Limit:
    """The most there may be of something, in words that follow the number."""

    area: Area
    most: float
    of: str


_TABLE: list[Limit] = []


def _most(area: Area, most: Count, of: str) -> Count:
    _TABLE.append(Limit(area, most, of))
    return most


LONGEST_ID = _most("A scene", 200, "letters of an id")
LONGEST_NAME = _most("A scene", 120, "letters of a name that people give")
LARGEST = _most("A scene", 1e7, "as a length, px, an angle, degrees, or a factor")
LARGEST_SCALE = _most("A scene", 1e12, "as the scale of a part times those of all that it hangs on")
LONGEST_SCENE = _most("A scene", 100_000, "frames")
MOST_PARTS = _most("A scene", 5_000, "parts")
MOST_KEYS = _most("A scene", 200_000, "keys of all parts together")
MOST_FOOTHOLDS = _most("A scene", 20_000, "footholds of all parts together")
MOST_EYELETS = _most("A scene", 20_000, "eyelets of all parts together")
MOST_CONSTRAINTS_IN_ALL = _most("A scene", 10_000, "constraints of all parts together")
MOST_LINKS_IN_ALL = _most("A scene", 20_000, "links of all parts together")
MOST_MARKERS = _most("A scene", 500, "markers")
MOST_CUTS = _most("A scene", 500, "cuts from one camera to another")
MOST_POSES = _most("A scene", 200, "kept poses")
MOST_OUTLINE_CORNERS = _most("A scene", 20_000, "corners of the outline of one drawing")
MOST_NODES = _most("A scene", 20_000, "nodes of one shape")
MOST_CONSTRAINTS = _most("A scene", 50, "constraints of one part")
MOST_GOALS = _most("A scene", 64, "goals that a part lies between")
MOST_CHANGES = _most("A scene", 500, "changes of one constraint in time")
MOST_JOINTS = _most("A scene", 32, "joints of a chain that reaches")
MOST_AXES = _most("A scene", 2, "axes of a lever")
MOST_LINKS = _most("A scene", 200, "links of one part")
MOST_LINK_POINTS = _most("A scene", 200, "points of the curve of a link")

MOST_EDITS = _most("Edits", 1_000, "edits in one request")
MOST_FOLLOWED = _most(
    "Edits", 50_000, "frames that fitted keys follow, times their channels, or the parts that have a say"
)
MOST_WRITTEN_ROUNDS = _most("Edits", 20_000, "keys as which the rounds of a cycle are written out")
MOST_FUSED = _most("Edits", 1_000, "parts fused at once")
MOST_FOLDED = _most("Edits", 200, "panels folded at once")
MOST_ROLLED = _most("Edits", 400, "corners that a part rolls over in one edit")
MOST_STANDING_KEYS = _most("Edits", 400, "keys of a turn that a part is stood on")
MOST_BOUNCES = _most("Edits", 12, "bounces of a segment")
MOST_TRACK_FRAMES = _most("Edits", 100_000, "frames of a track that is brought in")

MOST_MOTION_NUMBERS = _most("Questions", 16_000_000, "numbers of one block of motion, ten for a part at a frame")
MOST_VIEWS = _most("Questions", 8, "views at once")
MOST_SHAPED_FRAMES = _most("Questions", 2_000, "frames for which moving shapes are sent at once")
MOST_PLACES = _most("Questions", 200_000, "places of pivots followed at once")
MOST_CURVES = _most("Questions", 500, "curves told at once")
MOST_ARCS = _most("Questions", 500, "parts whose pivots are followed at once")

MOST_REQUEST_BYTES = _most("What comes in", 64_000_000, "bytes of one request, files included")
MOST_DRAWING_BYTES = _most("What comes in", 12_000_000, "bytes of a drawing, unpacked")
MOST_ELEMENTS = _most("What comes in", 50_000, "elements of a drawing")
MOST_COPIES = _most("What comes in", 200_000, "elements of a drawing, its references followed")
MOST_MATCHES = _most("What comes in", 2_000_000, "times that a rule of a style sheet is tried on an element")
MOST_STEPS = _most("What comes in", 100, "references in a drawing that lead from one to the next")
MOST_LAYERS = _most("What comes in", 1_000, "layers of a drawing, and pieces that a part is split into")
MOST_BITMAP_BYTES = _most("What comes in", 48_000_000, "bytes of a bitmap")
MOST_PIXELS = _most("What comes in", 64_000_000, "pixels of a bitmap")
MOST_PICTURES = _most("What comes in", 500, "pictures of a moving reference")
MOST_MOVING_PIXELS = _most("What comes in", 128_000_000, "pixels of a moving reference, those of all pictures together")
MOST_FONT_BYTES = _most("What comes in", 8_000_000, "bytes of a font")
MOST_TRACK_BYTES = _most("What comes in", 10_000_000, "bytes of a file of tracks")
MOST_ZIP_BYTES = _most("What comes in", 256_000_000, "bytes of a scene as a zip, unpacked")
MOST_FILES = _most("What comes in", 1_000, "drawings and pictures in a zip that is brought in")
MOST_SCENE_BYTES = _most("What comes in", 24_000_000, "bytes of the scene in such a zip, without its art")
MOST_VALUES = _most("What comes in", 2_000_000, "values of one JSON document")
MOST_LETTERS = _most("What comes in", 1_000_000, "letters of one text in JSON")
LARGEST_NUMBER = _most("What comes in", 1e15, "as a number in JSON")

MOST_PIXELS_SENT = _most("What is sent", 64_000_000, "pixels of a picture")
MOST_FILM_PIXELS = _most("What is sent", 10_000_000_000, "pixels of all pictures of a film")
MOST_FRAMES_SENT = _most("What is sent", 100_000, "frames of a film")
MOST_RATE_SENT = _most("What is sent", 240, "frames a second of a film")
MOST_VARIANTS = _most("What is sent", 1_000, "rows of a table of variants")
MOST_SENDINGS = _most("What is sent", 200, "things that were sent and are kept")
MOST_SEEN_PIECES = _most("What is sent", 50_000, "pieces of parts in depth, written picture by picture")
MOST_WRITTEN = _most("What is sent", 1_000_000, "places written frame by frame: parts times frames")
MOST_FITTED = _most("What is sent", 300_000, "frames that fitted keys follow, times their channels")

#: All of them, in this order.
LIMITS = tuple(_TABLE)
