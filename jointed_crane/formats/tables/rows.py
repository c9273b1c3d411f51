"""The rows of a table: comma-separated values (RFC 4180), or with semicolons or tabs."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterator

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_TRACK_BYTES

#: A line by its number, and its cells.
Row = tuple[int, list[str]]


def rows_of(data: bytes, name: str, refused: Callable[[str], RuleError]) -> tuple[Iterator[Row], str]:
    """The lines of a table that are not empty, one after the other, and what stands between its cells.

    Raises what `refused` makes of a sentence where it cannot be read.
    """
    if len(data) > MOST_TRACK_BYTES:
        raise refused(f"{name} is larger than {MOST_TRACK_BYTES // 1_000_000} MB.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise refused(f"{name} is no text in UTF-8; save the table as CSV.") from None
    first = next((line for line in text.splitlines() if line.strip()), "")
    delimiter = max(",;\t", key=first.count)
    return _lines(text, delimiter, name, refused), delimiter


def _lines(text: str, delimiter: str, name: str, refused: Callable[[str], RuleError]) -> Iterator[Row]:
    reader = csv.reader(io.StringIO(text), delimiter=delimiter)
    try:
        for row in reader:
            cells = [cell.strip() for cell in row]
            if any(cells):
                yield reader.line_num, cells
    except csv.Error as error:
        raise refused(f"{name} cannot be read as a table ({error}).") from None
