"""Tracks in: a table of frame, x and y, as comma-separated values (RFC 4180) or with semicolons or tabs."""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass
from pathlib import PurePath

from jointed_crane.core.basics.limits import MOST_TRACK_BYTES, MOST_TRACK_FRAMES
from jointed_crane.formats.artwork import ArtworkError

TrackPoint = tuple[float, float, float]


@dataclass(frozen=True)
class Track:
    """A followed point: its name, and frame, x and y for each of some frames, px on the stage."""

    name: str
    points: tuple[TrackPoint, ...]


def read_track(data: bytes, name: str) -> Track:
    """Read a track. A first line that holds words alone names the columns; empty lines are passed over.

    Raises ArtworkError with the line that cannot be read.
    """
    if len(data) > MOST_TRACK_BYTES:
        raise ArtworkError(f"{name} is larger than {MOST_TRACK_BYTES // 1_000_000} MB. Nothing was brought in.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise ArtworkError(f"{name} is no text in UTF-8. Nothing was brought in; save the table as CSV.") from None
    first = next((line for line in text.splitlines() if line.strip()), "")
    delimiter = max(",;\t", key=first.count)
    is_decimal_comma = delimiter == ";"
    points: list[TrackPoint] = []
    columns = (0, 1, 2)
    try:
        for row in csv.reader(io.StringIO(text), delimiter=delimiter):
            cells = [cell.strip() for cell in row]
            if not any(cells):
                continue
            if not points and not any(map(_is_number, cells)):
                columns = _columns(cells, name)
                continue
            points.append(_point(cells, columns, is_decimal_comma, f"{name}, line {len(points) + 1}"))
            if len(points) > MOST_TRACK_FRAMES:
                raise ArtworkError(f"{name} has more than {MOST_TRACK_FRAMES} lines. Nothing was brought in.")
    except csv.Error as error:
        raise ArtworkError(f"{name} cannot be read as a table ({error}). Nothing was brought in.") from None
    if not points:
        raise ArtworkError(f"{name} holds no line of frame, x and y. Nothing was brought in.")
    return Track(PurePath(name).stem[:100] or "Track", tuple(points))


def _columns(cells: list[str], name: str) -> tuple[int, int, int]:
    """The places of frame, x and y by the names of the columns; the first three where they have other names."""
    names = [cell.lower() for cell in cells]
    if all(wanted in names for wanted in ("frame", "x", "y")):
        return (names.index("frame"), names.index("x"), names.index("y"))
    if len(cells) < 3:
        raise ArtworkError(f"{name} has {len(cells)} columns; a track has frame, x and y. Nothing was brought in.")
    return (0, 1, 2)


def _point(
    cells: list[str], columns: tuple[int, int, int], is_decimal_comma: bool, where: str
) -> tuple[float, float, float]:
    try:
        result = [cells[column].replace(",", ".") if is_decimal_comma else cells[column] for column in columns]
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
