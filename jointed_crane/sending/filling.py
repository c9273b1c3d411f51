"""A table whose rows fill the slots of a scene, all sent as one: a file for each row, in a zip."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Any

from pydantic import ValidationError

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import Edit
from jointed_crane.core.edits.pictures.drawings import Fit
from jointed_crane.core.model.forms import Text
from jointed_crane.core.model.scene import Drawing, Scene
from jointed_crane.formats.document import adapter
from jointed_crane.formats.lettering import SHIPPED, lettered, with_outlines
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.sending.variants import Variant, variant

#: A column in the pattern of names.
_COLUMN = re.compile(r"\{([^{}]*)\}")


@dataclass(frozen=True)
class Filling:
    """Rows, and how their files are called and their pictures laid.

    Attributes
    ----------
    rows : cells by their columns
    names : the pattern of the files' names, columns in braces, {row} the row's number
    pictures : the drawings that cells may name, as documents whose art is stored
    """

    rows: tuple[Mapping[str, str], ...]
    names: str = "{row}"
    fit: Fit = "registration"
    pictures: Mapping[str, Any] = field(default_factory=dict)

    @classmethod
    def read(cls, document: Mapping[str, Any]) -> Filling:
        """A table from its document; RuleError where a picture of it is no drawing."""
        result = cls(**document)
        for name, picture in result.pictures.items():
            try:
                adapter(Drawing).validate_python(picture)
            except ValidationError:
                raise RuleError(f"The picture {name[:60]!r} is no drawing. Nothing was sent.") from None
        return result

    @property
    def art(self) -> list[str]:
        """The hashes of the pictures' art."""
        return sorted({str(picture["art"]) for picture in self.pictures.values()})

    def file_names(self, ending: str) -> list[str]:
        """What the file of each row is called."""
        return file_names(self.names, self.rows, ending)

    def variant(self, scene: Scene, art: ArtSource, number: int) -> Variant:
        """The scene with a row in its slots; for workers, since the letters of words are drawn here."""

        def letters(text: Text) -> Text | None:
            return None if text.font in SHIPPED else lettered(text, art)

        def outlined(edits: list[Edit]) -> list[Edit]:
            return with_outlines(edits, letters)

        return variant(scene, art, self.rows[number], outlined, partial(self._picture, art), self.fit)

    def _picture(self, art: ArtSource, name: str) -> tuple[Drawing, tuple[str, bytes]]:
        if name not in self.pictures:
            known = ", ".join(self.pictures) or "none yet"
            raise RuleError(f"There is no picture {name[:100]!r} beside the table; it has {known}. Nothing was sent.")
        drawing = adapter(Drawing).validate_python(self.pictures[name])
        return drawing, art(drawing.art)


def file_names(pattern: str, rows: Sequence[Mapping[str, str]], ending: str) -> list[str]:
    """The name of each row's file; RuleError where two are alike, or the pattern names no column."""
    columns = dict.fromkeys(column for row in rows for column in row)
    stray = next((word for word in _COLUMN.findall(pattern) if word != "row" and word not in columns), None)
    if stray is not None:
        raise RuleError(f"The table has no column {stray[:60]!r}; it has {', '.join(columns)}. Nothing was sent.")
    result = []
    for number, row in enumerate(rows, start=1):
        known = {"row": f"{number:0{len(str(len(rows)))}d}", **row}
        stem = _COLUMN.sub(partial(_cell, known), pattern)
        result.append(re.sub(r"[^\w .,()-]+", "-", stem).strip(" .-")[:120] + f".{ending}")
    if len({name.lower() for name in result}) < len(result) or any(name.startswith(".") for name in result):
        raise RuleError("Two rows would have one name, or one none. Nothing was sent; put {row} into their names.")
    return result


def _cell(row: Mapping[str, str], found: re.Match[str]) -> str:
    return row.get(found[1], "")
