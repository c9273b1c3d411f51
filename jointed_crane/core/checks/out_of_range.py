"""A value outside its range."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.edits.joints.limiting import KeepWithinLimits
from jointed_crane.core.model.channels import channel_kind

NAME = "Outside its range"


def find(rig: Rig) -> Iterator[Finding]:
    """Channels whose motion leaves the part's range, with the furthest frame."""
    for row, (part_id, channel) in enumerate(rig.film.keyed):
        part = rig.scene.part(part_id)
        if channel not in part.limits:
            continue
        lowest, highest = part.limits[channel]
        low = -np.inf if lowest is None else lowest
        high = np.inf if highest is None else highest
        values = rig.film.motion[row]
        beyond = np.maximum(low - values, values - high)
        worst = int(np.argmax(beyond))
        if beyond[worst] <= 1e-9:
            continue
        kind = channel_kind(channel)
        sentence = (
            f"{kind.label} of {part.name} is {values[worst]:.4g} at frame {rig.film.frames[worst]:.0f}; "
            f"its range is {_edge(low)} to {_edge(high)}."
        )
        keys = part.channels[channel].keys
        mend = (KeepWithinLimits((part.id,), channel),) if keys and not part.locked else ()
        yield Finding(NAME, part.id, sentence, float(beyond[worst]), kind.unit, mend)


def _edge(value: float) -> str:
    return "open" if np.isinf(value) else f"{value:.4g}"
