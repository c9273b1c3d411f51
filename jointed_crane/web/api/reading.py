"""The files of a request, read by workers."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any, TypeVar, cast

from flask import current_app, request
from werkzeug.datastructures import FileStorage

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.formats.artwork import Artwork, together
from jointed_crane.formats.coming_in import Choices
from jointed_crane.reading import jobs
from jointed_crane.reading.bounds import READING
from jointed_crane.reading.foreign_file import ForeignFile
from jointed_crane.reading.read_before import ReadBefore
from jointed_crane.reading.several import as_chosen, drawings
from jointed_crane.web.api.work import done

Found = TypeVar("Found")


def read(job: Callable[..., Found], *args: Any) -> Found:
    """What a worker finds in foreign bytes; ends when the page that asked leaves or stops it."""
    return done(READING, job, *args)


def read_each(files: Sequence[ForeignFile]) -> list[Artwork]:
    """Artwork files, each by itself; what was read not long ago is not read again."""
    known = cast(ReadBefore, current_app.extensions["read_before"])
    return known.of(files, lambda missing: read(jobs.artwork, missing))


def read_together(files: Iterable[ForeignFile], choices: Choices) -> Artwork:
    """Drawings, pictures and zips of them as one artwork, each as is chosen for it."""
    result = drawings(files, lambda file: read(jobs.unpacked, file))
    return together(read_each(as_chosen(result, choices)))


def request_files() -> list[FileStorage]:
    """The files of a form, at least one."""
    files = request.files.getlist("files")
    if not files:
        raise RuleError("No file came with the request. Nothing was brought in.")
    return files


def foreign(file: FileStorage, otherwise: str = "artwork") -> ForeignFile:
    """A file of a form with its name, `otherwise` where it has none."""
    return ForeignFile(file.read(), (file.filename or otherwise)[:200])
