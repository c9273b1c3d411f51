"""Tracks in: a table of frame, x and y, and part where it holds several."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import PurePath

from jointed_crane.core.basics.limits import MOST_EDITS, MOST_TRACK_FRAMES
from jointed_crane.formats.artwork import ArtworkError
from jointed_crane.formats.tables.rows import rows_of

TrackPoint = tuple[float, float, float]


@dataclass(frozen=True)
class Track:
    """A followed point: its name, and frame, x and y for each of some frames, px on the stage."""

    name: str
    points: tuple[TrackPoint, ...]


@dataclass(frozen=True)
class _Columns:
    """The places of the columns that a track has; `part` names the track where a table holds several."""

    frame: int = 0
    x: int = 1
    y: int = 2
    part: int | None = None


def read_tracks(data: bytes, name: str) -> list[Track]:
    """Read the tracks of a table. A first line that holds words alone names the columns; empty lines are passed over.

    Where one of the columns is called part, each part is a track of its own. Raises ArtworkError with the line that
    cannot be read.
    """
    points: dict[str, list[TrackPoint]] = {}
    columns = None
    stem = PurePath(name).stem[:100] or "Track"
    rows, delimiter = rows_of(data, name, _refused)
    for line, cells in rows:
        if columns is None:
            columns = _Columns()
            if not any(map(_is_number, cells)):
                columns = _columns(cells, name)
                continue
        point = _point(cells, columns, delimiter == ";", f"{name}, line {line}")
        told = cells[columns.part][:100] if columns.part is not None and columns.part < len(cells) else ""
        track = points.setdefault(told or stem, [])
        track.append(point)
        if len(track) > MOST_TRACK_FRAMES:
            raise _refused(f"{name} has more than {MOST_TRACK_FRAMES} lines.")
    if not points:
        raise ArtworkError(f"{name} holds no line of frame, x and y. Nothing was brought in.")
    if len(points) > MOST_EDITS:
        raise ArtworkError(f"{name} holds {len(points)} tracks; {MOST_EDITS} is the most. Nothing was brought in.")
    return [Track(told, tuple(its)) for told, its in points.items()]


def _refused(sentence: str) -> ArtworkError:
    return ArtworkError(f"{sentence} Nothing was brought in.")


def _columns(cells: list[str], name: str) -> _Columns:
    """The places of the columns by their names; the first three are frame, x and y where they have other names."""
    names = [cell.lower() for cell in cells]
    if all(wanted in names for wanted in ("frame", "x", "y")):
        part = names.index("part") if "part" in names else None
        return _Columns(names.index("frame"), names.index("x"), names.index("y"), part)
    if len(cells) < 3:
        raise ArtworkError(f"{name} has {len(cells)} columns; a track has frame, x and y. Nothing was brought in.")
    return _Columns()


def _point(cells: list[str], columns: _Columns, is_decimal_comma: bool, where: str) -> TrackPoint:
    try:
        told = [cells[column] for column in (columns.frame, columns.x, columns.y)]
        result = [cell.replace(",", ".") if is_decimal_comma else cell for cell in told]
        frame, x, y = (float(cell) for cell in result)
    except (IndexError, ValueError):
        raise ArtworkError(f"{where}: a line holds frame, x and y as numbers. Nothing was brought in.") from None
    if not all(map(math.isfinite, (frame, x, y))):
        raise ArtworkError(f"{where}: frame, x and y are finite numbers. Nothing was brought in.")
    return (frame, x, y)


def _is_number(cell: str) -> bool:
    try:
        float(cell.replace(",", "."))
    except ValueError:
        return False
    return True
