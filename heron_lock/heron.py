"""Heron on the sill: a four second loop of wading and looking."""

from __future__ import annotations

from heron_lock.rigging import started
from jointed_crane.core.edits.placing.kept_poses import KeepPose
from jointed_crane.core.edits.time.time_markers import AddMarker
from jointed_crane.store.library import Library

NAME = "Heron on the sill"

PIVOTS = {
    "Tail": (778, 382),
    "Far thigh": (694, 404),
    "Far shank": (722, 478),
    "Far foot": (708, 584),
    "Body": (660, 372),
    "Breast plumes": (574, 366),
    "Near thigh": (664, 408),
    "Near shank": (640, 482),
    "Near foot": (660, 588),
    "Wing tip": (722, 362),
    "Wing": (608, 346),
    "Lower neck": (580, 352),
    "Upper neck": (524, 254),
    "Crest": (562, 152),
    "Beak lower": (525, 172),
    "Beak upper": (526, 159),
    "Head": (556, 166),
    "Eye": (532, 158),
    "Sun": (1040, 160),
    "Ripples": (684, 592),
    "Reeds behind": (1158, 622),
    "Reeds in front": (372, 720),
}
PARENTS = {
    "Tail": "Body",
    "Far thigh": "Body",
    "Far shank": "Far thigh",
    "Far foot": "Far shank",
    "Breast plumes": "Body",
    "Near thigh": "Body",
    "Near shank": "Near thigh",
    "Near foot": "Near shank",
    "Wing": "Body",
    "Wing tip": "Wing",
    "Lower neck": "Body",
    "Upper neck": "Lower neck",
    "Head": "Upper neck",
    "Crest": "Head",
    "Beak upper": "Head",
    "Beak lower": "Head",
    "Eye": "Head",
}


def build(library: Library) -> None:
    """Make the scene in a library."""
    rig = started("heron.svg", NAME, 96)
    rig.pivots(PIVOTS)
    rig.joints(PARENTS)
    rig.limits({"Lower neck": (-70, 45), "Upper neck": (-60, 50), "Head": (-40, 40), "Near shank": (-80, 5)})
    rig.helper("heron-helper", "Heron", ("Body",), (690, 300))

    # The near leg is lifted out of the water, carried forward and set down again.
    rig.keys("Near thigh", "turn.z", {0: 0, 18: 22, 34: 34, 52: 8, 62: 0, 96: 0})
    rig.keys("Near shank", "turn.z", {0: 0, 18: -38, 34: -52, 52: -14, 62: 0, 96: 0})
    rig.keys("Near foot", "turn.z", {0: 0, 18: 42, 36: 30, 54: 4, 62: 0, 96: 0})
    rig.keys("Body", "turn.z", {0: 0, 26: 2.4, 62: -1.2, 78: 0, 96: 0})
    rig.keys("Body", "move.y", {0: 0, 22: -5, 48: 3, 64: 0, 96: 0})
    rig.keys("Far thigh", "turn.z", {0: 0, 26: -2.4, 62: 1.2, 78: 0, 96: 0})

    # It bends down to look into the water, waits, and comes up.
    rig.keys("Lower neck", "turn.z", {0: 0, 30: -24, 58: -30, 66: -29, 88: 0, 96: 0})
    rig.keys("Upper neck", "turn.z", {0: 0, 30: -14, 58: -30, 66: -30, 88: 0, 96: 0})
    rig.keys("Head", "turn.z", {0: 0, 10: 5, 30: 14, 58: 22, 66: 18, 88: 0, 96: 0})
    rig.keys("Beak upper", "turn.z", {50: 0, 54: 5, 60: 5, 64: 0})
    rig.keys("Beak lower", "turn.z", {50: 0, 54: -11, 60: -11, 64: 0})
    rig.keys("Crest", "turn.z", {0: 0, 24: -14, 44: 6, 70: -10, 96: 0})
    rig.keys("Eye", "scale.y", {70: 1, 72: 0.1, 74: 0.1, 76: 1})
    rig.keys("Wing", "turn.z", {0: 0, 40: -3, 70: 1.5, 96: 0})
    rig.keys("Wing tip", "turn.z", {0: 0, 44: 3, 74: -2, 96: 0})
    rig.keys("Tail", "turn.z", {0: 0, 30: 5, 60: -4, 96: 0})
    rig.keys("Breast plumes", "turn.z", {0: 0, 24: 5, 52: -6, 80: 3, 96: 0})

    # The world around it.
    rig.keys("Ripples", "scale.x", {0: 0.9, 48: 1.12, 96: 0.9})
    rig.keys("Ripples", "opacity", {0: 0.9, 48: 0.55, 96: 0.9})
    rig.sway("Reeds behind", "turn.z", 1.6, 96)
    rig.sway("Reeds in front", "turn.z", 2.2, 96, 0.3)
    # What happens when, and two poses to come back to.
    bird = tuple(rig.named(name) for name in ("Body", *PARENTS))
    rig.keep(
        [
            AddMarker("wade", 0.0, 62.0, "Wade"),
            AddMarker("look", 66.0, 95.0, "Look up"),
            KeepPose("standing", 0.0, bird, "Standing"),
            KeepPose("fishing", 58.0, bird, "Fishing"),
        ]
    )
    rig.lock(("Sky", "Sun", "Far hills", "Near hills", "Water", "Shallows", "Sill"))
    rig.put_on_shelf(library)
