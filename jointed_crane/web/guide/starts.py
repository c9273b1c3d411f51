"""The scenes that pages of the guide begin with: one drawing, as far along as the page needs it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Literal, get_args

from jointed_crane.core.edits import Edit, applied
from jointed_crane.core.edits.joints.eyelets import MakeJoints
from jointed_crane.core.edits.joints.joining import Join
from jointed_crane.core.edits.placing.pivots import MovePivot
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.artwork import Artwork
from jointed_crane.formats.bring_in import read_artwork
from jointed_crane.store.library import new_id, scene_of

#: An empty stage; the drawing's layers; with their pivots; joined; and with an arm that waves.
Start = Literal["empty", "layers", "pivots", "joined", "waving"]
STARTS: tuple[Start, ...] = get_args(Start)

DRAWING = Path(__file__).with_name("drawings") / "lock.svg"
SKETCH = "Sketch of a gull"
#: Where the pivots of the parts lie, px on the stage, and on which part each hangs.
PIVOTS = {
    "Head": (300, 256), "Upper arm": (322, 282), "Fore arm": (322, 358), "Hand": (322, 424), "Lamp": (566, 212),
    "Crate": (490, 380), "Left gate": (716, 374), "Right gate": (862, 374),
}  # fmt: skip
JOINTS = {"Head": "Body", "Upper arm": "Body", "Fore arm": "Upper arm", "Hand": "Fore arm", "Lamp": "Post"}


def begun(start: Start, title: str) -> tuple[Scene, Artwork]:
    """A scene that is so far along, on no shelf yet, and its art."""
    artwork = read_artwork(DRAWING.read_bytes(), DRAWING.name)
    scene = replace(scene_of(artwork, title), ground="#f4efe4", length=72)
    if start == "empty":
        return replace(scene, parts=()), artwork
    scene = replace(scene, parts=tuple(part for part in scene.parts if part.name != SKETCH))
    ids = {part.name: part.id for part in scene.parts}
    edits: list[Edit] = []
    far = STARTS.index(start)
    if far >= STARTS.index("pivots"):
        edits += [MovePivot(ids[name], place, "stage") for name, place in PIVOTS.items()]
    if far >= STARTS.index("joined"):
        edits += [Join((ids[child],), ids[parent]) for child, parent in JOINTS.items()]
        edits.append(MakeJoints(tuple(ids[child] for child in JOINTS), new_id()))
    if start == "waving":
        arm = (ids["Upper arm"],)
        edits += [
            SetValues(arm, {"turn.z": turn}, frame) for frame, turn in ((0.0, 0.0), (24.0, -110.0), (48.0, -40.0))
        ]
    return applied(scene, edits), artwork
