"""Several foreign files at once: a zip is the drawings in it, and each file is read as is chosen for it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace

from jointed_crane.formats.coming_in import Choices
from jointed_crane.reading.foreign_file import ForeignFile


def is_zip(file: ForeignFile) -> bool:
    """Whether a file begins as zips do (PKWARE's APPNOTE, 4.3.6)."""
    return file.data.startswith(b"PK")


def is_json(file: ForeignFile) -> bool:
    """Whether a file begins as JSON of many values does (RFC 8259)."""
    return file.data[:1024].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"{")


def drawings(
    files: Iterable[ForeignFile], unpacked: Callable[[ForeignFile], Iterable[tuple[str, bytes]]]
) -> list[ForeignFile]:
    """Drawings and pictures; a zip is those in it, by name, as `unpacked` gives them."""
    result: list[ForeignFile] = []
    for file in files:
        result += [ForeignFile(data, name) for name, data in unpacked(file)] if is_zip(file) else [file]
    return result


def as_chosen(files: Sequence[ForeignFile], choices: Choices) -> list[ForeignFile]:
    """The same files, each with how it is read."""
    return [replace(file, reading=choices.reading(number, len(files))) for number, file in enumerate(files)]
