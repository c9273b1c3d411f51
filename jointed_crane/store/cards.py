"""What the shelf shows of each scene."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from fractions import Fraction

from sqlalchemy import Engine, func, select

from jointed_crane.store.tables import PARTS, SCENES


@dataclass(frozen=True)
class Card:
    """What the shelf shows of a scene."""

    id: str
    name: str
    width: float
    height: float
    fps: tuple[int, int]
    length: int
    parts: int
    version: int
    changed_at: datetime

    @property
    def seconds(self) -> float:
        """Length in seconds."""
        return float(self.length / Fraction(*self.fps))

    @property
    def rate(self) -> float:
        """Frames per second."""
        return float(Fraction(*self.fps))


def cards(engine: Engine) -> list[Card]:
    """All scenes on the shelf, newest first, in two queries."""
    counting = select(PARTS.c.scene_id, func.count()).group_by(PARTS.c.scene_id)
    with engine.connect() as connection:
        counts = {scene_id: count for scene_id, count in connection.execute(counting)}
        rows = connection.execute(
            select(SCENES).where(SCENES.c.deleted_at.is_(None)).order_by(SCENES.c.changed_at.desc())
        ).all()
    return [
        Card(
            row.id, row.name, row.width, row.height, tuple(row.fps), row.length,
            counts.get(row.id, 0), row.version, row.changed_at,
        )
        for row in rows
    ]  # fmt: skip
