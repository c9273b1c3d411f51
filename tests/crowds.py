"""Large scenes of one kind: limbs side by side, turn and two scales of each part keyed, every handle shaped."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key

KEYS = 8
FRAMES = 300


def crowd(count: int, art: str = "art") -> Scene:
    """Limbs of five parts each, every part keyed on turn and two scales."""
    random = np.random.default_rng(7)
    box = (0.0, 0.0, 40.0, 90.0)
    drawing = Drawing("d", "limb", art, box, box, outline=(((0, 0), (40, 0), (40, 90), (0, 90)),))
    parts = [
        Part(
            id=f"p{number}",
            name=f"Part {number}",
            parent=None if number % 5 == 0 else f"p{number - 1}",
            drawings=(replace(drawing, id=f"d{number}"),),
            pivot=(20.0, 8.0, 0.0),
            rest={"move.x": 20.0 + 6 * (number % 200 // 5), "move.y": 82.0},
            channels={
                "turn.z": keyed_channel(random, 0.0, 40.0),
                "scale.x": keyed_channel(random, 1.0, 0.1),
                "scale.y": keyed_channel(random, 1.0, 0.1),
            },
        )
        for number in range(count)
    ]
    return Scene("crowd", "Crowd", length=FRAMES, parts=tuple(parts))


def keyed_channel(random: np.random.Generator, neutral: float, spread: float) -> Channel:
    """Eight eased keys over the length, every handle shaped."""
    frames = np.linspace(0, FRAMES - 1, KEYS) + np.concatenate([[0], random.uniform(-12, 12, KEYS - 2), [0]])
    return Channel(
        tuple(
            Key(
                float(frame),
                float(neutral + random.normal() * spread),
                "eased",
                (-float(random.uniform(2, 30)), float(random.normal() * spread)),
                (float(random.uniform(2, 30)), float(random.normal() * spread)),
            )
            for frame in frames
        )
    )
