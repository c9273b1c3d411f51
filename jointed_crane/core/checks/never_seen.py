"""A part that is never seen: not shown, or fully clear, at every frame."""

from __future__ import annotations

from collections.abc import Iterator

from jointed_crane.core.checks.finding import Finding, Rig

NAME = "Never seen"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts with a picture that no frame shows."""
    for part in rig.pictured():
        if not rig.film.is_ever_seen(part.id):
            yield Finding(NAME, part.id, f"{part.name} is shown at no frame.")
