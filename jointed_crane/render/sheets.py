"""Frames side by side on one picture, and a table in JSON that says where each of them is."""

from __future__ import annotations

import json
import math
import zipfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import accumulate
from typing import Any, BinaryIO

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_PIXELS_SENT
from jointed_crane.render.frames import Pixels
from jointed_crane.render.png import png

_PICTURE = "sheet.png"


@dataclass(frozen=True)
class Cells:
    """How frames become cells.

    Attributes
    ----------
    columns : cells in a row; 0 is as square as can be
    padding : clear px round each cell
    trimmed : whether they are cut to what is seen
    """

    columns: int
    padding: int
    trimmed: bool


@dataclass(frozen=True)
class FrameFacts:
    """What the table says of a frame: its number in the scene, and its pivot, px of the frame."""

    number: float
    pivot: tuple[float, float]


def write_sheet(
    frames: Iterable[Pixels], facts: Sequence[FrameFacts], rate: Fraction, cells: Cells, file: BinaryIO
) -> None:
    """Write a zip of sheet.png and sheet.json.

    Cells stand in rows, each row as high as its highest and each column as wide as its widest. In the table a cell is
    left, top, width and height, px of the sheet; `trimmed` how much of the frame lies left of it and above, px; a pivot
    is px from the cell's upper left corner; a duration is seconds. RuleError where the sheet would be too large.
    """
    columns = cells.columns or math.ceil(math.sqrt(len(facts)))
    cut = []
    size = (0, 0)
    area = 0
    for pixels in frames:
        size = pixels.shape[1], pixels.shape[0]
        left, top, right, bottom = _seen(pixels) if cells.trimmed else (0, 0, *size)
        cut.append((left, top, pixels[top:bottom, left:right].copy()))
        area += (right - left) * (bottom - top)
        _ensure_room(area)
    widths = [max(one[2].shape[1] for one in cut[column::columns]) for column in range(min(columns, len(cut)))]
    heights = [max(one[2].shape[0] for one in cut[row : row + columns]) for row in range(0, len(cut), columns)]
    lefts, tops = _edges(widths, cells.padding), _edges(heights, cells.padding)
    _ensure_room(lefts[-1] * tops[-1])
    sheet: Pixels = np.zeros((tops[-1], lefts[-1], 4), np.uint8)
    rows = []
    for place, ((left, top, pixels), fact) in enumerate(zip(cut, facts, strict=True)):
        height, width, _ = pixels.shape
        x, y = lefts[place % columns] + cells.padding, tops[place // columns] + cells.padding
        sheet[y : y + height, x : x + width] = pixels
        rows.append(
            {
                "frame": fact.number,
                "cell": [x, y, width, height],
                "trimmed": [left, top],
                "pivot": [fact.pivot[0] - left, fact.pivot[1] - top],
                "duration": float(1 / rate),
            }
        )
    _write(sheet, {"frame_size": list(size), "rate": [rate.numerator, rate.denominator], "frames": rows}, file)


def _seen(pixels: Pixels) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of what is not quite clear; one px where all is."""
    across, down = np.flatnonzero(pixels[..., 3].any(axis=0)), np.flatnonzero(pixels[..., 3].any(axis=1))
    return (int(across[0]), int(down[0]), int(across[-1]) + 1, int(down[-1]) + 1) if across.size else (0, 0, 1, 1)


def _edges(lengths: list[int], padding: int) -> list[int]:
    """Where each row or column begins, its padding included, and where the last one ends."""
    return [0, *accumulate(length + 2 * padding for length in lengths)]


def _ensure_room(area: int) -> None:
    if area > MOST_PIXELS_SENT:
        raise RuleError(
            f"The sheet would have more than {MOST_PIXELS_SENT // 10**6} million pixels. Nothing was sent; choose a "
            "span, a lower rate or a smaller scale."
        )


def _write(sheet: Pixels, table: dict[str, Any], file: BinaryIO) -> None:
    words = {"picture": _PICTURE, "size": [sheet.shape[1], sheet.shape[0]], "units": {"length": "px", "time": "s"}}
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr(zipfile.ZipInfo(_PICTURE), png(sheet))
        archive.writestr(zipfile.ZipInfo("sheet.json"), json.dumps(words | table, indent=1))
