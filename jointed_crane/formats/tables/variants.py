"""A table of variants: a row for each, under a line of columns."""

from __future__ import annotations

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_VARIANTS
from jointed_crane.formats.tables.rows import rows_of


def variant_rows(data: bytes, name: str) -> list[dict[str, str]]:
    """The rows of a table, each by its columns. RuleError with the line where it cannot be read."""
    lines, _ = rows_of(data, name, _refused)
    rows = []
    for row in lines:
        rows.append(row)
        if len(rows) - 1 > MOST_VARIANTS:
            raise _refused(f"{name} has more than {MOST_VARIANTS} rows.")
    if len(rows) < 2:
        raise _refused(f"{name} has no rows under a line of columns.")
    (_, columns), *others = rows
    if len(set(columns)) < len(columns) or not all(columns):
        raise _refused(f"{name} has a column twice, or one without a name.")
    for line, cells in others:
        if len(cells) > len(columns):
            raise _refused(f"{name}, line {line}: {len(cells)} cells under {len(columns)} columns.")
    return [dict(zip(columns, cells, strict=False)) for _, cells in others]


def _refused(sentence: str) -> RuleError:
    return RuleError(f"{sentence} Nothing was sent.")
